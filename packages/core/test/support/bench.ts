/** A lane with its clock and its surroundings, and what came of it: what was written, and how commands ended. */
import {
  advance,
  type ChannelId,
  type Command,
  type CommandOrder,
  type DeliveryPolicy,
  type Effect,
  emptyLane,
  type Lane,
  type LaneEvent,
  laneDueAt,
  type Moment,
  newCommand,
  openCommands,
  restore,
  type Value,
} from "../../src/index.ts";
import { CHANNEL, commandId, moment, order, START } from "./order.ts";

export class Bench {
  lane: Lane = emptyLane(CHANNEL);
  now = START;
  surroundings: Partial<Moment> = {};
  readonly written: number[] = [];
  readonly kept: number[] = [];
  readonly ended: string[] = [];

  accept(seq: number, to: Value, more: Partial<CommandOrder> = {}, policy: Partial<DeliveryPolicy> = {}): this {
    return this.feed({ type: "accept", command: newCommand(order(seq, to, this.now, policy, more), this.now) });
  }

  feed(event: LaneEvent): this {
    const { lane, effects } = advance(this.lane, event, this.moment);
    return this.take(lane, effects);
  }

  restart(open: readonly Command[] = openCommands(this.lane)): this {
    const { lane, effects } = restore(CHANNEL, open, this.moment);
    return this.take(lane, effects);
  }

  done(seq: number | null, ok = true): this {
    return this.feed({ type: "done", id: seq === null ? null : commandId(seq), ok, code: null });
  }

  is(value: Value, channel: ChannelId = CHANNEL, id: number | null = null): this {
    const report = { value, by: null, id: id === null ? null : commandId(id), live: true };
    return this.feed({ type: "report", channel, report });
  }

  wake(): this {
    this.now = Math.max(this.now, laneDueAt(this.lane, this.moment));
    return this.feed({ type: "wake" });
  }

  private get moment(): Moment {
    return moment(this.now, this.surroundings);
  }

  private take(lane: Lane, effects: readonly Effect[]): this {
    this.lane = lane;
    for (const effect of effects) {
      if (effect.type === "publish") this.written.push(effect.command.seq);
      else if (effect.type === "keep-sending") this.kept.push(effect.command.seq);
      else if (effect.command.end) this.ended.push(`${effect.command.seq} ${effect.command.end}`);
    }
    return this;
  }
}
