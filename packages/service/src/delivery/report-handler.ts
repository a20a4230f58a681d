/** A report of a device: it may prove an open command, it becomes the channel's state, and whoever looks is told of a change. */
import {
  acceptedFor,
  type ChannelEntry,
  type ChannelId,
  type Clues,
  type CommandId,
  confirms,
  HOUR_MS,
  isWorthKeeping,
  type KeptReading,
  kindOf,
  type MessageRead,
  mayComeLate,
  type Observed,
  observe,
  openCommands,
  type RawMessage,
  type Report,
  readsNumbers,
  shortNumber,
  unreadableText,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import { newId } from "../platform/id.ts";
import type { Board } from "../state/board.ts";
import type { InputFeed } from "../state/input-feed.ts";
import type { Feed } from "../state/live-feed.ts";
import type { StateChange } from "./command-recorder.ts";
import type { ForeignCommands } from "./foreign-commands.ts";
import type { IssuedIds } from "./issued-ids.ts";
import type { LaneRunner } from "./lane-runner.ts";
import { MeasuredStates } from "./measured-states.ts";
import type { PowerUps } from "./power-ups.ts";

/** How old a message may be. */
export interface MessageAge {
  /** It is no retained message. */
  readonly live: boolean;
  /** The broker has kept it while the link was down. */
  readonly waited: boolean;
}

export interface ReportHandlerDeps {
  readonly clock: Clock;
  readonly board: Board;
  readonly feed: Feed;
  readonly inputs: InputFeed;
  readonly issued: IssuedIds;
  readonly lanes: LaneRunner;
  readonly powerUps: PowerUps;
  readonly saveChange: (change: StateChange) => void;
  /** A device has said that a channel is something else now. */
  readonly onChange: (channel: ChannelEntry, observed: Observed) => void;
}

/** Stands for the command of a short number that none of ours has. */
const NOBODYS_COMMAND = "00000000-0000-7000-8000-000000000000" as CommandId;

/** How long a device must have said nothing unreadable until it is no concern any more, ms. */
const UNREADABLE_FOR_MS = HOUR_MS;

/** How long after its end a command may still explain a change, beyond the time it had to settle, ms. */
const LATE_WITHIN_MS = 60_000;

export class ReportHandler {
  private readonly deps: ReportHandlerDeps;
  private readonly foreign: ForeignCommands;
  private readonly measured: MeasuredStates;
  /** By channel when a report of its could not be read last, ms since 1970, and by which form. */
  private readonly unreadable = new Map<ChannelId, { readonly at: number; readonly form: ChannelEntry["codec"] }>();
  /** Of each sensor the reading that was kept last. */
  private readonly kept = new Map<ChannelId, KeptReading>();

  constructor(deps: ReportHandlerDeps, foreign: ForeignCommands) {
    this.deps = deps;
    this.foreign = foreign;
    this.measured = new MeasuredStates(deps.board, deps.feed, deps.clock, (channel, report, wire) =>
      this.takeState(channel, report, wire),
    );
  }

  take(
    channel: ChannelEntry,
    read: NonNullable<MessageRead["report"]>,
    { live, waited }: MessageAge,
    wire: RawMessage,
  ) {
    const { value, by, id, number } = read;
    const named = number === undefined ? id : this.commandOf(channel, number);
    const report: Report = { value, by, id: named, live, ...(waited ? { waited } : {}) };
    // What something else sees is not told by the device: its own word is a claim.
    if (channel.seenBy) this.measured.takeClaim(channel, report, wire, this.deps.lanes);
    else this.takeState(channel, report, wire);
  }

  /** The command that a device means by a short number: an open one of the channel, its last, or one of those before. */
  commandOf({ id }: ChannelEntry, number: number): CommandId {
    const { lanes, board, issued } = this.deps;
    const open = lanes.laneOf(id).slots.map(({ command }) => command);
    const known = [...open.filter(({ channel }) => channel === id), board.lastEndOf(id)];
    const meant = known.find((one) => one !== null && shortNumber(one.id) === number);
    return meant?.id ?? issued.byNumber(id, number) ?? NOBODYS_COMMAND;
  }

  private takeState(channel: ChannelEntry, report: Report, wire: RawMessage): void {
    const { board, lanes, feed, powerUps, inputs } = this.deps;
    const { id } = channel;
    if (report.live && report.by === "boot") powerUps.reportedBoot(channel);
    const before = board.ageOf(channel);
    const known = board.observedOf(id)?.value ?? null;
    const change = this.observed(channel, report);
    if (report.live && !report.waited) this.settleUnreadable(channel);
    lanes.dispatch(id, { type: "report", channel: id, report, wire });
    this.wakePartners(id);
    this.measured.sourceChanged(channel, report, wire);
    // What was pressed while nobody heard is no press by now.
    inputs.take(channel, report.value, known, report.live && !report.waited);
    if (change) this.tell(channel, change);
    else if (before.stale !== board.ageOf(channel).stale) feed.channelChanged(id);
  }

  /** What a channel reported cannot be read: it may be anything by now, and so may whatever it tells of. */
  takeUnreadable(channel: ChannelEntry, wire: RawMessage, why: string): void {
    if (channel.seenBy) return;
    const { board, feed, clock, inputs } = this.deps;
    inputs.lose([channel]);
    const about = [channel, ...(board.snapshot.watchers.get(channel.id) ?? [])];
    for (const { id } of about) board.putInDoubt(id, "unreadable");
    this.unreadable.set(channel.id, { at: clock.now(), form: channel.codec });
    board.addConcern(channel.id, { kind: "unreadable-report", text: unreadableText(wire, why), since: clock.now() });
    for (const { id } of about) feed.channelChanged(id);
  }

  /** It is read again: the alert goes if its profile was changed since, or if nothing was unreadable for long. */
  private settleUnreadable({ id, codec }: ChannelEntry): void {
    const { board, clock, feed } = this.deps;
    const last = this.unreadable.get(id);
    if (last && last.form === codec && clock.now() < last.at + UNREADABLE_FOR_MS) return;
    this.unreadable.delete(id);
    if (board.dropConcern(id, "unreadable-report")) feed.channelChanged(id);
  }

  /** Before the lanes decide: what they may use is what the device says now. @returns null when nothing changed */
  private observed(channel: ChannelEntry, report: Report) {
    const { board, lanes, clock } = this.deps;
    const { id } = channel;
    const open = openCommands(lanes.laneOf(id)).filter((command) => command.channel === id);
    const proven = open.find((command) => confirms(command, report, clock.now()));
    const clues = this.cluesFor(channel, report, proven?.id ?? null);
    const { next, change } = observe(board.observedOf(id), report, clues, clock.now());
    board.hear(id, report.value, report);
    if (!change) return null;
    board.setObserved(id, next, change.from);
    return change;
  }

  private tell(channel: ChannelEntry, { from, to }: NonNullable<ReturnType<typeof observe>["change"]>): void {
    const { id } = channel;
    this.deps.feed.channelChanged(id);
    this.deps.onChange(channel, to);
    if (readsNumbers(kindOf(channel.kind)) && !this.keepsReading(channel, to)) return;
    const { at, value, cause, commandId } = to;
    this.deps.saveChange({ id: newId(), channelId: id, at, from, to: value, cause, commandId });
  }

  /** Of a reading only what moved by more than its tolerance is kept, or what stood for long. */
  private keepsReading({ id, policy }: ChannelEntry, { value, at }: Observed): boolean {
    if (typeof value !== "number") return true;
    if (!isWorthKeeping(this.kept.get(id) ?? null, value, policy.tolerance, at)) return false;
    this.kept.set(id, { value, at });
    return true;
  }

  private cluesFor(channel: ChannelEntry, report: Report, provenBy: CommandId | null): Clues {
    const { board, clock, issued } = this.deps;
    const { id, policy } = channel;
    const now = clock.now();
    const last = board.lastEndOf(id);
    const endedAt = last?.hops.at(-1)?.at ?? 0;
    const isKnown = (named: CommandId | null) => named === null || issued.has(id, named) || last?.id === named;
    const recent = last !== null && mayComeLate(last) && now < endedAt + policy.settleMs + LATE_WITHIN_MS;
    return {
      provenBy,
      unproven: recent ? { id: last.id, to: last.to, accepted: acceptedFor(channel, last.to) } : null,
      issued: report.id === NOBODYS_COMMAND ? null : isKnown(report.id),
      foreign: this.foreign.explains(id, now),
    };
  }

  /** Commands that waited for this channel to be off may have their turn. */
  private wakePartners(channel: ChannelId): void {
    for (const { channels } of this.deps.board.snapshot.interlocks.get(channel) ?? []) {
      for (const partner of channels) if (partner !== channel) this.deps.lanes.dispatch(partner, { type: "wake" });
    }
  }
}
