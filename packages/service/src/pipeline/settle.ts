/**
 * What is learnt about commands and channels: evidence from the link goes to the lanes, changes of
 * commands go to the journal, and only what the journal has is told as an end.
 */
import {
  type ChannelEntry,
  type ChannelId,
  type Command,
  type CommandId,
  codecs,
  confirms,
  type Garbled,
  isGarbled,
  observe,
  openCommands,
  type Presence,
  type Report,
  type Value,
  type WireSight,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import { newId } from "../id.ts";
import type { Feed } from "../live/feed.ts";
import type { Log } from "../log.ts";
import type { GroupCommit } from "../store/group-commit.ts";
import type { SettleRow } from "../store/settle-commands.ts";
import type { Answers } from "./answers.ts";
import type { Board } from "./board.ts";
import type { LaneBook } from "./lane-book.ts";
import type { RequestBook } from "./request-book.ts";

export interface SettleParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly book: RequestBook;
  readonly feed: Feed;
  readonly answers: Answers;
  readonly writer: GroupCommit<SettleRow, void>;
  readonly lanes: () => LaneBook;
}

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
  /** Messages that meant nothing: one log line a topic and minute, with the count. */
  private readonly oddities = new Map<string, { since: number; count: number }>();

  constructor(parts: SettleParts) {
    this.parts = parts;
  }

  /** A message came in on a topic of ours. Never throws: whatever a device sends must not hurt another's command. */
  receive(topic: string, payload: Uint8Array, live: boolean): void {
    const use = this.parts.board.snapshot.byTopic.get(topic);
    if (!use) return this.odd(topic, "no channel has this topic");
    if (use.role === "here") return this.receiveHere(topic, use.device, codecs[use.profile.codec].decodeHere(payload));
    const codec = codecs[use.channel.profile.codec];
    const wire: WireSight = { topic, payload: printable(payload) };
    if (use.role === "done") {
      const done = codec.decodeDone(payload);
      if (isGarbled(done)) return this.odd(topic, done.garbled);
      // A retained acknowledgement is old news by definition.
      if (!live) return this.odd(topic, "a retained acknowledgement");
      this.parts.lanes().dispatch(use.channel.id, { type: "done", ...done, known: this.knownOf(use.channel), wire });
      return;
    }
    const report = codec.decodeIs(payload);
    if (isGarbled(report)) return this.odd(topic, report.garbled);
    this.receiveReport(use.channel, { ...report, live }, wire);
  }

  /** A lane changed one of its commands. */
  changed(command: Command): void {
    if (command.end !== null) {
      this.unsaved.delete(command.id);
      void this.save(command);
      return;
    }
    this.show(command);
    if (this.parts.answers.wants(command)) {
      this.unsaved.delete(command.id);
      void this.save(command);
    } else {
      this.unsaved.set(command.id, { command, since: this.unsaved.get(command.id)?.since ?? this.parts.clock.now() });
    }
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
    try {
      await this.parts.writer.enqueue({ command });
    } catch (error) {
      // Without its end on record the command is still open in the journal, and goes on after a restart.
      this.parts.log.error({ err: error, command: command.id }, "the journal did not take a command's progress");
      return;
    }
    if (command.end !== null) this.show(command);
    this.parts.answers.tell(command);
    if (command.end === null) return;
    const { id, requestId, end, reason, stage } = command;
    this.parts.log.debug({ command: id, request: requestId, end, reason, stage }, "command ended");
  }

  private show(command: Command): void {
    const request = this.parts.book.update(command);
    if (!request) return;
    this.parts.board.setLastCommand(command, request);
    this.parts.feed.channelChanged(command.channel);
    this.parts.feed.requestChanged(command.requestId, command.end);
  }

  /** The link is gone: what devices said before may have changed unheard. */
  linkLost(): void {
    this.fresh.clear();
  }

  /** What the device last said, if it would have told of any change since. */
  private knownOf(channel: ChannelEntry): Value | null {
    return this.fresh.has(channel.id) ? (this.parts.board.observedOf(channel.id)?.value ?? null) : null;
  }

  private receiveReport(channel: ChannelEntry, report: Report, wire: WireSight): void {
    const { board, lanes, feed, clock } = this.parts;
    this.fresh.add(channel.id);
    const proven = openCommands(lanes().lane(channel.id)).find((command) => confirms(command, report));
    lanes().dispatch(channel.id, { type: "report", report, wire });
    const { next, change } = observe(board.observedOf(channel.id), report, proven?.id ?? null, clock.now());
    if (!change) return;
    board.setObserved(channel.id, next);
    feed.channelChanged(channel.id);
    const { to, from } = change;
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

  private receiveHere(topic: string, device: string, presence: Presence | Garbled): void {
    if (isGarbled(presence)) return this.odd(topic, presence.garbled);
    const { board, feed, clock } = this.parts;
    if (!board.setPresence(device, { ...presence, since: clock.now() })) return;
    for (const channel of board.channelsOf(device)) {
      // Gone, or powered up anew: its last word no longer counts until it speaks again.
      this.fresh.delete(channel.id);
      feed.channelChanged(channel.id);
    }
  }

  private odd(topic: string, why: string): void {
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

/** Payload bytes as text that may stand in a journal, a log and a screen. */
function printable(payload: Uint8Array): string {
  return Buffer.from(payload)
    .toString("utf8")
    .replace(/\p{Cc}/gu, "\u00b7")
    .slice(0, 1_000);
}
