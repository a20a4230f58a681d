/**
 * What is learnt about commands and channels: evidence from the link goes to the lanes, changes of
 * commands go to the journal, and only what the journal has is told as an end.
 */
import {
  answersByTurns,
  type ChannelEntry,
  type ChannelId,
  type Clues,
  type Command,
  type CommandId,
  confirms,
  decodePresence,
  type Garbled,
  isGarbled,
  isWorthKeeping,
  type KeptReading,
  type Observed,
  type Outcome,
  observe,
  openCommands,
  outcomeOf,
  type Presence,
  payloadText,
  READ,
  RelayError,
  type Report,
  type Value,
  type WireSight,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { DayTally } from "../day-tally.ts";
import { failHere } from "../failpoint.ts";
import { newId } from "../id.ts";
import type { Feed } from "../live/feed.ts";
import type { Log } from "../log.ts";
import type { Metrics } from "../metrics.ts";
import type { RequestRecord } from "../store/find-requests.ts";
import type { GroupCommit } from "../store/group-commit.ts";
import type { SettleRow } from "../store/settle-commands.ts";
import type { Answers } from "./answers.ts";
import type { Board } from "./board.ts";
import type { LaneBook } from "./lane-book.ts";
import type { PowerUps } from "./power-ups.ts";
import type { OpenRequest, RequestBook } from "./request-book.ts";

export interface SettleParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly book: RequestBook;
  readonly feed: Feed;
  readonly answers: Answers;
  readonly writer: GroupCommit<SettleRow, void>;
  readonly lanes: () => LaneBook;
  readonly powerUps: () => PowerUps;
  readonly metrics: Metrics;
  readonly tally: DayTally;
  /** A request has ended, with what became of each of its commands. */
  readonly onOutcome: (request: RequestRecord, outcome: Outcome, commands: readonly Command[]) => void;
  /** A device has said that a channel is something else now. */
  readonly onChange: (channel: ChannelEntry, observed: Observed) => void;
}

/** How long after its end a command may still explain a change, beyond the time it had to settle, ms. */
const LATE_WITHIN_MS = 60_000;
/** How long a message of somebody else on the command topic explains a change, ms. */
const FOREIGN_WITHIN_MS = 10_000;
/** How many ids are remembered of each channel, to tell its reports about our commands from those about others'. */
const IDS_KEPT = 32;

/** An open command that the journal does not know in its present form. */
interface Unsaved {
  readonly command: Command;
  readonly since: number;
}

export class Settle {
  private readonly parts: SettleParts;
  private readonly unsaved = new Map<CommandId, Unsaved>();
  /** Channels whose last report still is their device's word: the link and the device have stood since. */
  private readonly fresh = new Set<ChannelId>();
  /** By channel the ids that were given out lately, newest last. */
  private readonly issued = new Map<ChannelId, Set<CommandId>>();
  /** By channel when somebody else was last heard on its command topic, ms since 1970. */
  private readonly foreignAt = new Map<ChannelId, number>();
  /** Levels that may still be on their way: told anew when their time is over. */
  private readonly settling = new Set<ChannelId>();
  /** Of each sensor the reading that was kept last. */
  private readonly kept = new Map<ChannelId, KeptReading>();
  /** Messages that meant nothing: one log line a topic and minute, with the count. */
  private readonly oddities = new Map<string, { since: number; count: number }>();

  constructor(parts: SettleParts) {
    this.parts = parts;
  }

  /** A message came in on a topic of ours. Never throws: whatever a device sends must not hurt another's command. */
  receive(topic: string, payload: Uint8Array, live: boolean): void {
    const use = this.parts.board.snapshot.byTopic.get(topic);
    if (!use) return this.odd(topic, "no channel has this topic");
    if (use.role === "here") return this.receiveHere(topic, use.device, decodePresence(use.profile.codec, payload));
    const wire: WireSight = { topic, payload: payloadText(payload) };
    // Its turn, or the id in it, tells whose such an answer is: it is told once, not to each.
    const [first] = use.channels;
    const asked = use.role === "done" && first && answersByTurns(first) ? [first] : use.channels;
    const understood = asked.filter((channel) => this.receiveAt(channel, use.role, payload, live, wire));
    if (understood.length === 0) this.odd(topic, "it names none of the channels of this topic");
  }

  /** @returns whether the message is about this channel */
  private receiveAt(
    channel: ChannelEntry,
    role: "do" | "done" | "is" | "ask",
    payload: Uint8Array,
    live: boolean,
    wire: WireSight,
  ): boolean {
    const { topic } = wire;
    if (role === "ask") return true;
    if (role === "do") {
      this.receiveOthers(channel, live);
      return true;
    }
    if (role === "done") return this.receiveDone(channel, payload, live, wire);
    const report = channel.codec.decodeIs(payload);
    if (report === null) return false;
    if (live) failHere("on-report");
    if (isGarbled(report)) this.odd(topic, report.garbled);
    else this.receiveReport(channel, { value: report.value, by: report.by, id: report.id, live }, wire);
    return true;
  }

  private receiveDone(channel: ChannelEntry, payload: Uint8Array, live: boolean, wire: WireSight): boolean {
    const done = channel.codec.decodeDone(payload);
    if (done === null) return false;
    if (isGarbled(done)) {
      this.odd(wire.topic, done.garbled);
      return true;
    }
    // A retained acknowledgement is old news by definition.
    if (!live) {
      this.odd(wire.topic, "a retained acknowledgement");
      return true;
    }
    failHere("on-acknowledgement");
    const { id, ok, code, why } = done;
    const event = { type: "done", id, ok, code, why, wire } as const;
    if (answersByTurns(channel)) this.parts.lanes().dispatchDone(this.siblingsOf(channel), event);
    else this.parts.lanes().dispatch(channel.id, event);
    return true;
  }

  private siblingsOf(channel: ChannelEntry): ChannelId[] {
    return this.parts.board.channelsOf(channel.device.address).map(({ id }) => id);
  }

  /** Something on a command topic that is not ours: kept there by a retained message, or written by somebody else. */
  private receiveOthers(channel: ChannelEntry, live: boolean): void {
    const { board, clock, feed, log } = this.parts;
    const now = clock.now();
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

  /** A lane changed one of its commands. */
  changed(command: Command): void {
    if (command.end !== null) {
      this.unsaved.delete(command.id);
      void this.save(command);
      return;
    }
    if (command.attempts === 1 && command.stage === "accepted") this.issue(command);
    this.show(command);
    if (this.parts.answers.wants(command)) {
      this.unsaved.delete(command.id);
      void this.save(command);
    } else {
      this.unsaved.set(command.id, { command, since: this.unsaved.get(command.id)?.since ?? this.parts.clock.now() });
    }
  }

  /** Makes a command durable as it is, before it is written: for one that may be written only once. */
  async keepSending(command: Command): Promise<void> {
    this.unsaved.delete(command.id);
    this.show(command);
    failHere("before-sending-commit");
    await this.parts.writer.enqueue({ command });
    failHere("after-sending-commit");
  }

  /** Tells channels anew whose level had its time to settle. */
  tellSettled(): void {
    const { board, feed, clock } = this.parts;
    for (const channel of this.settling) {
      if (board.settlesAt(channel) > clock.now()) continue;
      this.settling.delete(channel);
      feed.channelChanged(channel);
    }
  }

  private issue({ channel, id }: Command): void {
    const ids = this.issued.get(channel) ?? new Set();
    this.issued.set(channel, ids.add(id));
    if (ids.size <= IDS_KEPT) return;
    const [oldest] = ids;
    if (oldest !== undefined) ids.delete(oldest);
  }

  /** Journals the progress of commands that have been open for a while. */
  saveProgress(olderThanMs: number): void {
    const now = this.parts.clock.now();
    for (const [id, { command, since }] of this.unsaved) {
      if (now - since < olderThanMs) continue;
      this.unsaved.delete(id);
      void this.save(command);
    }
  }

  private async save(command: Command): Promise<void> {
    if (command.end !== null) failHere("before-end-commit");
    try {
      await this.parts.writer.enqueue({ command });
    } catch (error) {
      // Without its end on record the command is still open in the journal, and goes on after a restart.
      const level = error instanceof RelayError ? "warn" : "error";
      this.parts.log[level]({ err: error, command: command.id }, "the journal did not take a command's progress");
      return;
    }
    if (command.end !== null) failHere("after-end-commit");
    if (command.end !== null) this.show(command);
    if (command.end === "complete" && typeof command.to === "number") this.settling.add(command.channel);
    this.parts.answers.tell(command);
    if (command.end === null) return;
    this.parts.metrics.commandEnded(command);
    const { id, requestId, channel, askedAt, end, reason, stage } = command;
    const site = this.parts.board.snapshot.byId.get(channel)?.site.slug ?? null;
    this.parts.tally.ended(site, askedAt, end === "complete");
    this.parts.log.debug({ command: id, request: requestId, end, reason, stage }, "command ended");
  }

  private show(command: Command): void {
    const request = this.parts.book.update(command);
    if (!request) return;
    // What it was told is a setpoint: asking what it is tells it nothing.
    if (command.to !== READ) this.parts.board.setLastCommand(command, request.record);
    this.parts.feed.channelChanged(command.channel);
    this.parts.feed.requestChanged(request);
    if (command.end !== null) this.countRequest(request);
  }

  private countRequest({ record, commands }: OpenRequest): void {
    const outcome = outcomeOf(commands.map(({ end }) => end));
    if (outcome === "open") return;
    this.parts.metrics.requestEnded(record.inlet, outcome);
    this.parts.onOutcome(record, outcome, commands);
  }

  /** The link is gone: what devices said before may have changed unheard. */
  linkLost(): void {
    this.fresh.clear();
    // What lies on command topics is looked at anew when the link is back.
    const { board, feed } = this.parts;
    for (const { id } of board.snapshot.channels) {
      if (board.dropConcern(id, "retained-command")) feed.channelChanged(id);
    }
  }

  /** What the device last said, if it would have told of any change since. */
  knownOf(channel: ChannelId): Value | null {
    return this.fresh.has(channel) ? (this.parts.board.observedOf(channel)?.value ?? null) : null;
  }

  private receiveReport(channel: ChannelEntry, report: Report, wire: WireSight): void {
    const { board, lanes, feed, clock } = this.parts;
    const { id } = channel;
    if (report.live && report.by === "boot") this.parts.powerUps().reportedBoot(channel);
    const open = openCommands(lanes().laneOf(id)).filter((command) => command.channel === id);
    const proven = open.find((command) => confirms(command, report));
    const clues = this.cluesFor(channel, report, proven?.id ?? null);
    const { next, change } = observe(board.observedOf(id), report, clues, clock.now());
    // Before the lanes decide: what they may use is what the device says now.
    this.fresh.add(id);
    if (change) board.setObserved(id, next, change.from);
    lanes().dispatch(id, { type: "report", channel: id, report, wire });
    this.wakePartners(id);
    if (!change) return;
    feed.channelChanged(channel.id);
    this.parts.onChange(channel, next);
    const { to, from } = change;
    if (channel.kind === "sensor" && !this.keepsReading(channel, to)) return;
    const row = {
      id: newId(),
      channelId: channel.id,
      at: to.at,
      from,
      to: to.value,
      cause: to.cause,
      commandId: to.commandId,
    };
    this.parts.writer.enqueue({ change: row }).catch((error: unknown) => {
      this.parts.log.error({ err: error, channel: channel.address }, "a state change could not be journaled");
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
    const { board, clock } = this.parts;
    const now = clock.now();
    const last = board.lastEndOf(id);
    const endedAt = last?.hops.at(-1)?.at ?? 0;
    const isUnproven = last?.end === "unanswered" || last?.end === "overtaken" || last?.end === "failed";
    const recent = isUnproven && now < endedAt + policy.settleMs + LATE_WITHIN_MS;
    return {
      provenBy,
      unproven: recent && last ? { id: last.id, to: last.to } : null,
      issued: report.id === null || this.issued.get(id)?.has(report.id) === true || last?.id === report.id,
      foreign: now < (this.foreignAt.get(id) ?? 0) + FOREIGN_WITHIN_MS,
      tolerance: policy.tolerance,
    };
  }

  /** Commands that waited for this channel to be off may have their turn. */
  private wakePartners(channel: ChannelId): void {
    for (const { channels } of this.parts.board.snapshot.interlocks.get(channel) ?? []) {
      for (const partner of channels) if (partner !== channel) this.parts.lanes().dispatch(partner, { type: "wake" });
    }
  }

  private receiveHere(topic: string, device: string, presence: Presence | Garbled): void {
    if (isGarbled(presence)) return this.odd(topic, presence.garbled);
    const { board, feed, clock } = this.parts;
    const isFirst = board.presenceOf(device) === null;
    const poweredUp = presence.up && this.parts.powerUps().deviceUp(board.channelsOf(device), presence.boot);
    if (!board.setPresence(device, { ...presence, since: clock.now() })) return;
    for (const channel of board.channelsOf(device)) {
      // Gone, back, or powered up anew: its last word no longer counts until it speaks again. What it said of itself
      // first, after our start, takes nothing back of what it said of its channels.
      if (!isFirst || !presence.up || poweredUp) this.fresh.delete(channel.id);
      feed.channelChanged(channel.id);
    }
  }

  private odd(topic: string, why: string): void {
    this.parts.metrics.messageIgnored();
    const now = this.parts.clock.now();
    const known = this.oddities.get(topic);
    if (known && now - known.since < 60_000) {
      known.count += 1;
      return;
    }
    // Bounded: a flood of invented topics must not fill the memory.
    if (this.oddities.size >= 1_000) this.oddities.clear();
    this.oddities.set(topic, { since: now, count: 0 });
    this.parts.log.warn({ topic, why, since: known?.count ?? 0 }, "message ignored");
  }
}
