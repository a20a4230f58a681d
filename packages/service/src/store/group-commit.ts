/**
 * Group commit: all that arrives while one commit is on its way goes into the next, as one statement. An idle writer writes at
 * once, or gathers for a moment where nobody waits for the rows. Whoever enqueued is told when its commit returned.
 */
import { RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import { databaseTrouble, isRowsFault } from "./database-trouble.ts";
import { isLeaseLost } from "./leases.ts";

export interface GroupCommitOptions<Row, Result> {
  readonly name: string;
  /**
   * Writes rows in one transaction and returns one result a row, in order. Must be safe to repeat:
   * after a lost connection nobody knows whether the commit happened.
   *
   * @param repeated the same rows may be in the journal already
   */
  readonly write: (rows: readonly Row[], repeated: boolean) => Promise<readonly Result[]>;
  /** Rows that may wait; beyond it `enqueue` rejects with service-busy. */
  readonly queueLimit: number;
  readonly batchRows: number;
  readonly log: Log;
  /** How long rows are gathered before they are written, ms: for rows that nobody waits for. Absent: an idle writer writes at once. */
  readonly gatherMs?: number;
  /** Another instance writes the journal now: what waits here is given up, and nothing more is taken. */
  readonly onLeaseLost: () => void;
  /** Told how long each commit group took, ms. */
  readonly onCommit?: (ms: number) => void;
}

interface Entry<Row, Result> {
  readonly row: Row;
  readonly resolve: (result: Result) => void;
  readonly reject: (error: unknown) => void;
}

const FIRST_PAUSE_MS = 20;
const LONGEST_PAUSE_MS = 1_000;

export class GroupCommit<Row, Result> {
  private readonly options: GroupCommitOptions<Row, Result>;
  private waiting: Entry<Row, Result>[] = [];
  private running: Promise<void> | null = null;
  private stopped = false;
  private abandoned = false;
  private endGathering: () => void = () => {};
  /** Why the journal cannot be written just now; null when it can. */
  trouble: string | null = null;

  constructor(options: GroupCommitOptions<Row, Result>) {
    this.options = options;
  }

  /** Whether a row would be taken now. */
  get hasRoom(): boolean {
    return !this.stopped && this.waiting.length < this.options.queueLimit;
  }

  /** Rows that wait for their commit. */
  get queued(): number {
    return this.waiting.length;
  }

  /** @throws RelayError service-busy when the queue is full or the service stops */
  enqueue(row: Row): Promise<Result> {
    if (this.stopped) return Promise.reject(new RelayError("service-busy", { why: "The service is stopping" }));
    if (this.waiting.length >= this.options.queueLimit) {
      return Promise.reject(new RelayError("service-busy", { why: "Too many requests wait for the journal" }));
    }
    return new Promise((resolve, reject) => {
      this.waiting.push({ row, resolve, reject });
      if (this.waiting.length === this.options.batchRows) this.endGathering();
      this.running ??= this.drain();
    });
  }

  /** Resolves when everything enqueued so far is durable, or was refused. */
  async settled(): Promise<void> {
    await this.running;
  }

  /** Takes nothing new, and resolves when everything enqueued so far is durable or given up. */
  async stop(): Promise<void> {
    this.stopped = true;
    this.endGathering();
    await this.running;
  }

  /** Gives up what cannot be written: for a stop whose time has run out. */
  abandon(): void {
    this.abandoned = true;
    giveUp(this.waiting.splice(0));
  }

  private async drain(): Promise<void> {
    // One turn later, so that everything that came in the same read of the socket shares the commit.
    await new Promise(setImmediate);
    while (this.waiting.length > 0) {
      await this.gathered();
      const batch = this.waiting.splice(0, this.options.batchRows);
      if (batch.length > 0) await this.commit(batch);
    }
    this.running = null;
  }

  private gathered(): Promise<void> {
    const { gatherMs, batchRows } = this.options;
    if (gatherMs === undefined || this.stopped || this.waiting.length >= batchRows) return Promise.resolve();
    return new Promise((resolve) => {
      const timer = setTimeout(() => this.endGathering(), gatherMs);
      this.endGathering = () => {
        clearTimeout(timer);
        this.endGathering = () => {};
        resolve();
      };
    });
  }

  private async commit(batch: readonly Entry<Row, Result>[], repeated = false): Promise<void> {
    let pauseMs = FIRST_PAUSE_MS;
    const startedAt = performance.now();
    for (let again = repeated; ; again = true) {
      try {
        const results = await this.options.write(
          batch.map((entry) => entry.row),
          again,
        );
        this.options.onCommit?.(performance.now() - startedAt);
        return this.committed(batch, results);
      } catch (error) {
        if (this.abandoned) return giveUp(batch);
        if (isLeaseLost(error)) return this.leaseLost(batch, again);
        if (isRowsFault(error)) return this.refuse(batch, error);
        this.trouble = databaseTrouble(error);
        this.options.log.warn(
          { err: error, writer: this.options.name, rows: batch.length, pauseMs },
          `commit failed, trying again: ${this.trouble}`,
        );
        await new Promise((resolve) => setTimeout(resolve, pauseMs * (0.75 + Math.random() / 2)));
        pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
      }
    }
  }

  private committed(batch: readonly Entry<Row, Result>[], results: readonly Result[]): void {
    this.trouble = null;
    for (const [index, entry] of batch.entries()) entry.resolve(results[index] as Result);
  }

  /** @param again an earlier try may have been kept, before the lease went: then nobody here knows */
  private leaseLost(batch: readonly Entry<Row, Result>[], again: boolean): void {
    this.stopped = true;
    for (const { reject } of batch) reject(again ? new RelayError("holder-lost") : tookOver());
    for (const { reject } of this.waiting.splice(0)) reject(tookOver());
    this.options.onLeaseLost();
  }

  /** One bad row must not take its neighbours down: the batch is halved until it stands alone. */
  private async refuse(batch: readonly Entry<Row, Result>[], error: unknown): Promise<void> {
    const [only] = batch;
    if (!only) return;
    if (batch.length === 1) {
      this.options.log.error({ err: error, writer: this.options.name }, "a row cannot be journaled");
      only.reject(error);
      return;
    }
    const half = Math.ceil(batch.length / 2);
    await this.commit(batch.slice(0, half), true);
    await this.commit(batch.slice(half), true);
  }
}

function tookOver(): RelayError {
  return new RelayError("service-busy", { why: "Another instance has just taken over" });
}

function giveUp(entries: readonly { reject: (error: unknown) => void }[]): void {
  for (const entry of entries) entry.reject(new RelayError("service-busy", { why: "The service stopped" }));
}
