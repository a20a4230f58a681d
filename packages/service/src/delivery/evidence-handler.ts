/**
 * What devices say: acknowledgements and reports go to the lanes, reports become channel states, presence wakes the power-up
 * rules. Whatever proves nothing is kept in the story of the commands that are open meanwhile.
 */
import {
  answersByTurns,
  type ChannelEntry,
  type ChannelId,
  type Clues,
  type CommandId,
  confirms,
  decodePresence,
  type IgnoredWhy,
  isGarbled,
  isWorthKeeping,
  type KeptReading,
  kindOf,
  type MessageRead,
  type Observed,
  observe,
  openCommands,
  type Presence,
  payloadText,
  type RawMessage,
  type Remark,
  type Report,
  readMessage,
  readsNumbers,
  type TopicUse,
} from "@bold-relay/core";
import type { StateChange } from "../delivery/command-recorder.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { Clock } from "../platform/clock.ts";
import { failHere } from "../platform/failpoint.ts";
import { newId } from "../platform/id.ts";
import type { Log } from "../platform/log.ts";
import type { Metrics } from "../platform/metrics.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";
import type { PresenceLog } from "../state/presence-log.ts";
import type { IssuedIds } from "./issued-ids.ts";
import { MeasuredStates } from "./measured-states.ts";
import type { PowerUps } from "./power-ups.ts";

export interface EvidenceHandlerDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly feed: Feed;
  readonly issued: IssuedIds;
  readonly lanes: LaneRunner;
  readonly powerUps: PowerUps;
  readonly presences: PresenceLog;
  readonly metrics: Pick<Metrics, "messageIgnored">;
  readonly saveChange: (change: StateChange) => void;
  /** A device has said that a channel is something else now. */
  readonly onChange: (channel: ChannelEntry, observed: Observed) => void;
}

/** How long after its end a command may still explain a change, beyond the time it had to settle, ms. */
const LATE_WITHIN_MS = 60_000;
/** How long a message of somebody else on the command topic explains a change, ms. */
const FOREIGN_WITHIN_MS = 10_000;

export class EvidenceHandler {
  private readonly deps: EvidenceHandlerDeps;
  private readonly measured: MeasuredStates;
  /** By channel when somebody else was last heard on its command topic, ms since 1970. */
  private readonly foreignAt = new Map<ChannelId, number>();
  /** Of each sensor the reading that was kept last. */
  private readonly kept = new Map<ChannelId, KeptReading>();
  /** Messages that meant nothing: one log line a topic and minute, with the count. */
  private readonly oddities = new Map<string, { since: number; count: number }>();

  constructor(deps: EvidenceHandlerDeps) {
    this.deps = deps;
    this.measured = new MeasuredStates(deps.board, deps.feed, deps.clock, (channel, report, wire) =>
      this.takeReport(channel, report, wire),
    );
  }

  /** A message came in on a topic of ours. Never throws: whatever a device sends must not hurt another's command. */
  receive(topic: string, payload: Uint8Array, live: boolean): void {
    const use = this.deps.board.snapshot.byTopic.get(topic);
    if (!use) return this.odd(topic, "no channel has this topic");
    const wire: RawMessage = { topic, payload: payloadText(payload) };
    const speaks = use.done.length > 0 || use.is.length > 0;
    if (use.here) {
      const presence = decodePresence(use.here.profile.codec, payload);
      if (!isGarbled(presence)) return this.receiveHere(use.here.device, presence, live, wire);
      if (!speaks) return this.odd(topic, presence.garbled);
    }
    if (speaks) return this.receiveSaid(use, payload, live, wire);
    if (use.do.length > 0 && payload.length > 0) for (const channel of use.do) this.receiveOthers(channel, live);
  }

  /** The link is gone: what devices said before may have changed unheard. */
  linkLost(): void {
    const { board, feed, presences } = this.deps;
    board.unhearAll();
    presences.clear();
    // What lies on command topics is looked at anew when the link is back.
    for (const { id } of board.snapshot.channels) {
      board.dropConcern(id, "retained-command");
      feed.channelChanged(id);
    }
  }

  private receiveSaid({ done, is }: TopicUse, payload: Uint8Array, live: boolean, wire: RawMessage): void {
    // Its turn, or the id in it, tells whose an acknowledgement on a shared topic is: it is told once, not to each.
    const [first] = done;
    const byTurns = first !== undefined && answersByTurns(first) && is.length === 0;
    const channels = byTurns ? [first] : everyOf(is, done);
    const about: { readonly channel: ChannelEntry; readonly message: MessageRead }[] = [];
    for (const channel of channels) {
      const message = readMessage(channel.codec, { done: done.includes(channel), is: is.includes(channel) }, payload);
      if (message !== null) about.push({ channel, message });
    }
    const [meant] = about;
    if (!meant) {
      this.odd(wire.topic, "it names none of the channels of this topic");
      for (const channel of channels) this.ignore(channel, "garbled", null, wire, "it names no channel");
      return;
    }
    const { garbled, answer } = meant.message;
    if (garbled !== null) this.odd(wire.topic, garbled);
    // Before anything is taken: what counts for a command may end it.
    else if (live && !byTurns && !about.some(({ channel }) => this.isWaiting(channel)))
      this.ignoreForOthers(
        about.map(({ channel }) => channel),
        wire,
        answer ? "acknowledgement" : "report",
      );
    for (const { channel, message } of about) this.take(channel, message, live, wire);
  }

  private take(channel: ChannelEntry, { answer, report, garbled }: MessageRead, live: boolean, wire: RawMessage): void {
    if (garbled !== null) {
      const takenFor = channel.topics.is === wire.topic ? "report" : "acknowledgement";
      return this.ignore(channel, "garbled", takenFor, wire, garbled);
    }
    if (answer && live) {
      failHere("on-acknowledgement");
      this.takeAnswer(channel, answer, wire);
    }
    // A retained acknowledgement is old news by definition.
    if (answer && !live) {
      this.odd(wire.topic, "a retained acknowledgement");
      this.ignore(channel, "retained", "acknowledgement", wire);
    }
    if (report === null) return;
    if (live) failHere("on-report");
    const { value, by, id } = report;
    if (channel.seenBy) this.measured.takeClaim(channel, { value, by, id, live }, wire, this.deps.lanes);
    else this.takeReport(channel, { value, by, id, live }, wire);
  }

  private takeAnswer(channel: ChannelEntry, answer: NonNullable<MessageRead["answer"]>, wire: RawMessage): void {
    const { id, ok, code, why } = answer;
    const event = { type: "done", id, ok, code, why, wire } as const;
    const lanes = this.deps.lanes;
    if (answersByTurns(channel)) lanes.dispatchDone(this.siblingsOf(channel), event);
    else lanes.dispatch(channel.id, event);
  }

  /** Whether a command of the channel is open, so that what is said of it is for that. */
  private isWaiting({ id }: ChannelEntry): boolean {
    return this.deps.lanes.openOf(id) !== null;
  }

  private siblingsOf(channel: ChannelEntry): ChannelId[] {
    return this.deps.board.channelsOf(channel.device.address).map(({ id }) => id);
  }

  private takeReport(channel: ChannelEntry, report: Report, wire: RawMessage): void {
    const { board, lanes, feed, clock } = this.deps;
    const { id } = channel;
    if (report.live && report.by === "boot") this.deps.powerUps.reportedBoot(channel);
    const open = openCommands(lanes.laneOf(id)).filter((command) => command.channel === id);
    const proven = open.find((command) => confirms(command, report));
    const clues = this.cluesFor(channel, report, proven?.id ?? null);
    const { next, change } = observe(board.observedOf(id), report, clues, clock.now());
    const before = board.ageOf(channel);
    // Before the lanes decide: what they may use is what the device says now.
    board.hear(id, report.value, report.live);
    if (change) board.setObserved(id, next, change.from);
    lanes.dispatch(id, { type: "report", channel: id, report, wire });
    this.wakePartners(id);
    this.measured.sourceChanged(channel, report.live, wire);
    if (!change) {
      if (before.stale !== board.ageOf(channel).stale) feed.channelChanged(id);
      return;
    }
    feed.channelChanged(id);
    this.deps.onChange(channel, next);
    const { to, from } = change;
    if (readsNumbers(kindOf(channel.kind)) && !this.keepsReading(channel, to)) return;
    this.deps.saveChange({
      id: newId(),
      channelId: id,
      at: to.at,
      from,
      to: to.value,
      cause: to.cause,
      commandId: to.commandId,
    });
  }

  /** Of a reading only what moved by more than its tolerance is kept, or what stood for long. */
  private keepsReading({ id, policy }: ChannelEntry, { value, at }: Observed): boolean {
    if (typeof value !== "number") return true;
    if (!isWorthKeeping(this.kept.get(id) ?? null, value, policy.tolerance, at)) return false;
    this.kept.set(id, { value, at });
    return true;
  }

  private cluesFor({ id, policy }: ChannelEntry, report: Report, provenBy: CommandId | null): Clues {
    const { board, clock, issued } = this.deps;
    const now = clock.now();
    const last = board.lastEndOf(id);
    const endedAt = last?.hops.at(-1)?.at ?? 0;
    const isUnproven = last?.end === "unanswered" || last?.end === "overtaken" || last?.end === "failed";
    const recent = isUnproven && now < endedAt + policy.settleMs + LATE_WITHIN_MS;
    return {
      provenBy,
      unproven: recent && last ? { id: last.id, to: last.to } : null,
      issued: report.id === null || issued.has(id, report.id) || last?.id === report.id,
      foreign: now < (this.foreignAt.get(id) ?? 0) + FOREIGN_WITHIN_MS,
      tolerance: policy.tolerance,
    };
  }

  /** Something on a command topic that is not ours: kept there by a retained message, or written by somebody else. */
  private receiveOthers(channel: ChannelEntry, live: boolean): void {
    const { board, clock, feed, log, lanes } = this.deps;
    const now = clock.now();
    if (!live && channel.profile.retainCommands) {
      // Ours, from before the link was lost: it must not act on a board that wakes up later.
      if (lanes.openOf(channel.id) === null) lanes.clearRetained(channel);
      return;
    }
    if (live) this.foreignAt.set(channel.id, now);
    const { topics } = channel;
    const isNew = board.addConcern(
      channel.id,
      live
        ? { kind: "foreign-publisher", text: `Somebody else writes commands to ${topics.do}.`, since: now }
        : {
            kind: "retained-command",
            text: `A retained message lies on ${topics.do}: the device obeys it at every connect. Clear it.`,
            since: now,
          },
    );
    if (!isNew) return;
    log.warn({ topic: topics.do, live }, "a message on a command topic that is not ours");
    feed.channelChanged(channel.id);
  }

  /** Commands that waited for this channel to be off may have their turn. */
  private wakePartners(channel: ChannelId): void {
    for (const { channels } of this.deps.board.snapshot.interlocks.get(channel) ?? []) {
      for (const partner of channels) if (partner !== channel) this.deps.lanes.dispatch(partner, { type: "wake" });
    }
  }

  private receiveHere(device: string, presence: Presence, live: boolean, wire: RawMessage): void {
    const { board, feed, clock, presences } = this.deps;
    const now = clock.now();
    const channels = board.channelsOf(device);
    const before = board.presenceOf(device);
    const poweredUp = presence.up && this.deps.powerUps.deviceUp(channels, presence.boot);
    if (live) presences.add(device, { ...presence, at: now });
    if (!board.setPresence(device, { ...presence, since: now })) return;
    const why: IgnoredWhy = !presence.up ? "went" : poweredUp ? "restarted" : "came";
    for (const channel of channels) {
      // What a device said of itself first, after our start, takes nothing back of what it said of its channels.
      if (before !== null || !presence.up || poweredUp) board.unhear(channel.id);
      if (live && before !== null) this.ignore(channel, why, "presence", wire);
      feed.channelChanged(channel.id);
    }
  }

  /** Into the story of the channel's open commands. */
  private ignore(
    channel: ChannelEntry,
    why: IgnoredWhy,
    takenFor: Remark["takenFor"],
    wire: RawMessage,
    detail?: string,
  ): void {
    const remark: Remark = detail === undefined ? { takenFor, why } : { takenFor, why, detail: detail.slice(0, 200) };
    this.deps.lanes.dispatch(channel.id, { type: "ignore", channel: channel.id, remark, wire });
  }

  /** A word on channels of which no command is open may be the answer that another one of the device waits for. */
  private ignoreForOthers(
    about: readonly ChannelEntry[],
    wire: RawMessage,
    takenFor: "acknowledgement" | "report",
  ): void {
    const [first] = about;
    if (!first || about.every(({ kind }) => kindOf(kind).input)) return;
    for (const sibling of this.deps.board.channelsOf(first.device.address)) {
      if (about.includes(sibling) || !this.isWaiting(sibling)) continue;
      this.ignore(sibling, "other-channel", takenFor, wire, `${first.name}, ${first.room.name}`);
    }
  }

  private odd(topic: string, why: string): void {
    this.deps.metrics.messageIgnored();
    const now = this.deps.clock.now();
    const known = this.oddities.get(topic);
    if (known && now - known.since < 60_000) {
      known.count += 1;
      return;
    }
    // Bounded: a flood of invented topics must not fill the memory.
    if (this.oddities.size >= 1_000) this.oddities.clear();
    this.oddities.set(topic, { since: now, count: 0 });
    this.deps.log.warn({ topic, why, since: known?.count ?? 0 }, "message ignored");
  }
}

/** Most topics have one use, and are heard a thousand times a second. */
function everyOf(is: readonly ChannelEntry[], done: readonly ChannelEntry[]): readonly ChannelEntry[] {
  if (done.length === 0) return is;
  return is.length === 0 ? done : [...new Set([...is, ...done])];
}
