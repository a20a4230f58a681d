/**
 * What is learnt about commands and channels becomes durable: changes of commands go to the journal, and only what the journal
 * has is told as an end. What devices say comes by `evidence-handler.ts`.
 */
import {
  type ChannelId,
  type Command,
  type CommandId,
  type Outcome,
  outcomeOf,
  READ,
  RelayError,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import { failHere } from "../platform/failpoint.ts";
import type { Log } from "../platform/log.ts";
import type { Metrics } from "../platform/metrics.ts";
import type { Board } from "../state/board.ts";
import type { DayTally } from "../state/day-tally.ts";
import type { Feed } from "../state/live-feed.ts";
import type { OpenRequest, OpenRequests } from "../state/open-requests.ts";
import type { RecentStatistics } from "../state/recent-statistics.ts";
import type { RequestRecord } from "../store/find-requests.ts";
import type { LeaseWriter } from "../store/group-commit.ts";
import type { SettleRow } from "../store/settle-commands.ts";
import type { Answers } from "./answers.ts";
import { Backlog } from "./backlog.ts";
import type { IssuedIds } from "./issued-ids.ts";

export interface CommandRecorderDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly board: Board;
  readonly openRequests: OpenRequests;
  readonly feed: Feed;
  readonly answers: Answers;
  readonly writer: LeaseWriter<SettleRow, void>;
  readonly issued: IssuedIds;
  readonly metrics: Metrics;
  readonly tally: DayTally;
  readonly recent: RecentStatistics;
  /** A request has ended, with what became of each of its commands. */
  readonly onOutcome: (request: RequestRecord, outcome: Outcome, commands: readonly Command[]) => void;
}

/** A change of a channel's state, as it goes to the database. */
export type StateChange = Extract<SettleRow, { change: unknown }>["change"];

/** An open command that the journal does not know in its present form. */
interface Unsaved {
  readonly command: Command;
  readonly since: number;
}

export class CommandRecorder {
  private readonly deps: CommandRecorderDeps;
  private readonly unsaved = new Map<CommandId, Unsaved>();
  /** Levels that may still be on their way: told anew when their time is over. */
  private readonly settling = new Set<ChannelId>();
  /** What the writer's queue had no room for. */
  private readonly backlog = new Backlog();

  constructor(deps: CommandRecorderDeps) {
    this.deps = deps;
  }

  /** A lane changed one of its commands. */
  changed(command: Command): void {
    if (command.end !== null) {
      this.unsaved.delete(command.id);
      void this.save(command);
      return;
    }
    if (command.attempts === 1 && command.stage === "accepted") this.deps.issued.add(command);
    this.show(command);
    if (this.deps.answers.wants(command)) {
      this.unsaved.delete(command.id);
      void this.save(command);
    } else {
      this.unsaved.set(command.id, { command, since: this.unsaved.get(command.id)?.since ?? this.deps.clock.now() });
    }
  }

  /** Makes a command durable as it is, before it is written: for one that may be written only once. */
  async keepSending(command: Command): Promise<void> {
    this.unsaved.delete(command.id);
    this.show(command);
    failHere("before-sending-commit");
    await this.deps.writer.enqueue({ command });
    failHere("after-sending-commit");
  }

  /** Tells channels anew whose level had its time to settle. */
  tellSettled(): void {
    const { board, feed, clock } = this.deps;
    for (const channel of this.settling) {
      if (board.settlesAt(channel) > clock.now()) continue;
      this.settling.delete(channel);
      feed.channelChanged(channel);
    }
  }

  /** Journals the progress of commands that have been open for a while, and what there was no room for. */
  saveProgress(olderThanMs: number): void {
    this.saveBacklog();
    const now = this.deps.clock.now();
    for (const [id, { command, since }] of this.unsaved) {
      if (now - since < olderThanMs) continue;
      this.unsaved.delete(id);
      void this.save(command);
    }
  }

  private saveBacklog(): void {
    while (this.backlog.size > 0 && this.deps.writer.hasRoom) {
      const row = this.backlog.take();
      if (row && "command" in row) void this.save(row.command);
      else if (row) this.saveChange(row.change);
    }
  }

  private async save(command: Command): Promise<void> {
    if (command.end !== null) failHere("before-end-commit");
    try {
      await this.deps.writer.enqueue({ command });
    } catch (error) {
      // No room: written as soon as there is some. After a stop, and for a row that can never be stored, the command is still
      // open in the journal, and goes on after a restart.
      if (error instanceof RelayError) this.backlog.addCommand(command);
      const level = error instanceof RelayError ? "warn" : "error";
      this.deps.log[level]({ err: error, command: command.id }, "the journal did not take a command's progress");
      return;
    }
    if (command.end !== null) {
      failHere("after-end-commit");
      const { end, requestId } = command;
      // Before it is shown: its request is let go with the last of its commands.
      const inlet = this.deps.openRequests.get(requestId)?.record.inlet;
      if (inlet !== undefined) this.deps.recent.ended({ ...command, end }, inlet);
      this.show(command);
    }
    if (command.end === "delivered" && typeof command.to === "number") this.settling.add(command.channel);
    this.deps.answers.tell(command);
    if (command.end === null) return;
    this.deps.metrics.commandEnded(command);
    const { id, requestId, channel, askedAt, end, reason, stage } = command;
    const site = this.deps.board.snapshot.byId.get(channel)?.site.slug ?? null;
    this.deps.tally.ended(site, askedAt, end === "delivered");
    this.deps.log.debug({ command: id, request: requestId, end, reason, stage }, "command ended");
  }

  private show(command: Command): void {
    const request = this.deps.openRequests.update(command);
    if (!request) return;
    // What it was told is a setpoint: asking what it is tells it nothing.
    if (command.to !== READ) this.deps.board.setLastCommand(command, request.record);
    this.deps.feed.channelChanged(command.channel);
    this.deps.feed.requestChanged(request);
    if (command.end !== null) this.countRequest(request);
  }

  private countRequest({ record, commands }: OpenRequest): void {
    const outcome = outcomeOf(commands.map(({ end }) => end));
    if (outcome === "open") return;
    this.deps.metrics.requestEnded(record.inlet, outcome);
    this.deps.onOutcome(record, outcome, commands);
  }

  /** Makes a change of a channel's state durable. */
  saveChange(change: StateChange): void {
    this.deps.writer.enqueue({ change }).catch((error: unknown) => {
      if (error instanceof RelayError) this.backlog.addChange(change);
      else this.deps.log.error({ err: error, channel: change.channelId }, "a state change could not be journaled");
    });
  }
}
