/** Every lane of this instance: hands events to them and carries their effects out. */
import {
  advance,
  type ChannelId,
  type Command,
  codecs,
  type Effect,
  emptyLane,
  isIdle,
  type Lane,
  type LaneEvent,
  type LaneStep,
  laneDueAt,
  restore,
  type Snapshot,
  transition,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { Link } from "../link/link.ts";

export interface LaneBookParts {
  readonly clock: Clock;
  readonly snapshot: Snapshot;
  readonly link: () => Pick<Link, "isReady" | "publish">;
  /** Told of every command that changed, ended or not, before anything else happens to it. */
  readonly onChanged: (command: Command) => void;
}

export class LaneBook {
  private readonly parts: LaneBookParts;
  private readonly lanes = new Map<ChannelId, Lane>();
  /** Lanes with something open. */
  private readonly active = new Set<ChannelId>();

  constructor(parts: LaneBookParts) {
    this.parts = parts;
  }

  lane(channel: ChannelId): Lane {
    return this.lanes.get(channel) ?? emptyLane(channel);
  }

  /** Puts the open commands found after a restart back. */
  restore(channel: ChannelId, open: readonly Command[]): void {
    this.take(restore(channel, open, { now: this.parts.clock.now(), linkUp: false }));
  }

  dispatch(channel: ChannelId, event: LaneEvent): void {
    this.take(advance(this.lane(channel), event, { now: this.parts.clock.now(), linkUp: this.parts.link().isReady }));
  }

  /** Ends a durable command that its lane must not take: its channel was locked out while it was being journaled. */
  refuse(command: Command): void {
    this.parts.onChanged(transition(command, { type: "lock" }, this.parts.clock.now()).next);
  }

  /** Tells every lane with something open. */
  dispatchAll(event: LaneEvent): void {
    for (const channel of [...this.active]) this.dispatch(channel, event);
  }

  /** Wakes up to `most` lanes that are due. */
  sweep(most: number): void {
    let woken = 0;
    const moment = { now: this.parts.clock.now(), linkUp: this.parts.link().isReady };
    for (const channel of this.active) {
      if (laneDueAt(this.lane(channel), moment) > moment.now) continue;
      this.dispatch(channel, { type: "wake" });
      woken += 1;
      if (woken >= most) return;
    }
  }

  private take({ lane, effects }: LaneStep): void {
    this.lanes.set(lane.channel, lane);
    if (isIdle(lane)) this.active.delete(lane.channel);
    else this.active.add(lane.channel);
    for (const effect of effects) {
      if (effect.type === "changed") this.parts.onChanged(effect.command);
      else this.publish(effect);
    }
  }

  private publish({ command, attempt, expiryMs }: Extract<Effect, { type: "publish" }>): void {
    const entry = this.parts.snapshot.byId.get(command.channel);
    // A channel that left the model meanwhile: nothing is written, and the command ends for want of an answer.
    if (!entry) return;
    const payload = codecs[entry.profile.codec].encode(command.id, command.to);
    this.parts.link().publish({ topic: entry.topics.do, payload, expiryMs }, (code) => {
      this.dispatch(command.channel, { type: "puback", id: command.id, attempt, code });
    });
  }
}
