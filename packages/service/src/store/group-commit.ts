/**
 * Group commit: all that arrives while one commit is on its way goes into the next, as one statement. An idle writer writes at
 * once, or gathers for a moment where nobody waits for the rows. Whoever enqueued is told when its commit returned.
 *
 * Those who write under different leases share the groups: each has a `LeaseWriter`, and loses, ends and gives up its own rows only.
 */
import { RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import { databaseTrouble, isRowsFault } from "./database-trouble.ts";
import { inLockOrder, isLeaseLost } from "./leases.ts";

export interface GroupCommitOptions<Row, Result> {
  readonly name: string;
  /**
   * Writes rows in one transaction and returns one result a row, in order. Must be safe to repeat:
   * after a lost connection nobody knows whether the commit happened.
   *
   * @param repeated the same rows may be in the journal already
   * @param epochs of the leases that the rows are written under
   */
  readonly write: (rows: readonly Row[], repeated: boolean, epochs: readonly number[]) => Promise<readonly Result[]>;
  /** Rows that may wait; beyond it `enqueue` rejects with service-busy. */
  readonly queueLimit: number;
  readonly batchRows: number;
  readonly log: Log;
  /** How long rows are gathered before they are written, ms: for rows that nobody waits for. Absent: an idle writer writes at once. */
  readonly gatherMs?: number;
  /** Told how long each commit group took, ms. */
  readonly onCommit?: (ms: number) => void;
}

interface Entry<Row, Result> {
  readonly row: Row;
  readonly by: LeaseWriter<Row, Result>;
  /** These two for `LeaseWriter`, which counts what has ended. */
  readonly resolve: (result: Result) => void;
  readonly reject: (error: unknown) => void;
}

const FIRST_PAUSE_MS = 20;
const LONGEST_PAUSE_MS = 1_000;

export class GroupCommit<Row, Result> {
  private readonly options: GroupCommitOptions<Row, Result>;
  private waiting: Entry<Row, Result>[] = [];
  private running: Promise<void> | null = null;
  private endGathering: () => void = () => {};
  /** Why the journal cannot be written just now; null when it can. */
  trouble: string | null = null;

  constructor(options: GroupCommitOptions<Row, Result>) {
    this.options = options;
  }

  /** Whether a row would be taken now. */
  get hasRoom(): boolean {
    return this.waiting.length < this.options.queueLimit;
  }

  /** Rows that wait for their commit. */
  get queued(): number {
    return this.waiting.length;
  }

  /** For `LeaseWriter`. */
  add(entry: Entry<Row, Result>): void {
    this.waiting.push(entry);
    if (this.waiting.length === this.options.batchRows) this.endGathering();
    this.running ??= this.drain();
  }

  /** What waits is written now. */
  hurry(): void {
    this.endGathering();
  }

  /** @returns what waits of this writer; it waits no longer */
  takeBack(by: LeaseWriter<Row, Result>): readonly Entry<Row, Result>[] {
    const own = this.waiting.filter((entry) => entry.by === by);
    if (own.length > 0) this.waiting = this.waiting.filter((entry) => entry.by !== by);
    return own;
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
    if (gatherMs === undefined || this.waiting.length >= batchRows) return Promise.resolve();
    if (this.waiting.some(({ by }) => by.isStopped)) return Promise.resolve();
    return new Promise((resolve) => {
      const timer = setTimeout(() => this.endGathering(), gatherMs);
      this.endGathering = () => {
        clearTimeout(timer);
        this.endGathering = () => {};
        resolve();
      };
    });
  }

  private async commit(rows: readonly Entry<Row, Result>[], repeated = false): Promise<void> {
    let batch = rows;
    let pauseMs = FIRST_PAUSE_MS;
    const startedAt = performance.now();
    for (let again = repeated; ; again = true) {
      try {
        const results = await this.options.write(
          batch.map((entry) => entry.row),
          again,
          epochsOf(batch),
        );
        this.options.onCommit?.(performance.now() - startedAt);
        return this.committed(batch, results);
      } catch (error) {
        if (isLeaseLost(error)) return this.leaseLost(batch, again);
        if (isRowsFault(error)) return this.refuse(batch, error);
        this.trouble = databaseTrouble(error);
        this.options.log.warn(
          { err: error, writer: this.options.name, rows: batch.length, pauseMs },
          `commit failed, trying again: ${this.trouble}`,
        );
        await new Promise((resolve) => setTimeout(resolve, pauseMs * (0.75 + Math.random() / 2)));
        pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
        batch = withoutAbandoned(batch);
        if (batch.length === 0) {
          this.trouble = null;
          return;
        }
      }
    }
  }

  private committed(batch: readonly Entry<Row, Result>[], results: readonly Result[]): void {
    this.trouble = null;
    for (const [index, entry] of batch.entries()) entry.by.written(entry, results[index] as Result);
  }

  /**
   * Nothing of the group is written. Which lease is gone shows when the rows of each are written apart.
   *
   * @param again an earlier try may have been kept, before the lease went: then nobody here knows
   */
  private async leaseLost(batch: readonly Entry<Row, Result>[], again: boolean): Promise<void> {
    this.trouble = null;
    const epochs = epochsOf(batch);
    if (epochs.length > 1) {
      for (const epoch of epochs)
        await this.commit(
          batch.filter(({ by }) => by.epoch === epoch),
          again,
        );
      return;
    }
    for (const entry of batch) entry.by.refused(entry, again ? new RelayError("holder-lost") : tookOver());
    for (const by of new Set(batch.map((entry) => entry.by))) by.loseLease();
  }

  /** One bad row must not take its neighbours down: the batch is halved until it stands alone. */
  private async refuse(batch: readonly Entry<Row, Result>[], error: unknown): Promise<void> {
    const [only] = batch;
    if (!only) return;
    if (batch.length === 1) {
      this.options.log.error({ err: error, writer: this.options.name }, "a row cannot be journaled");
      only.by.refused(only, error);
      return;
    }
    const half = Math.ceil(batch.length / 2);
    await this.commit(batch.slice(0, half), true);
    await this.commit(batch.slice(half), true);
  }
}

/** What is written under one lease: the rows go into the groups of all. */
export class LeaseWriter<Row, Result> {
  /** Proves the lease to the journal. */
  readonly epoch: number;
  private readonly group: GroupCommit<Row, Result>;
  private readonly onLeaseLost: () => void;
  private stopped = false;
  private abandoned = false;
  private enqueued = 0;
  private done = 0;
  private untilDone: { readonly count: number; readonly resolve: () => void }[] = [];

  /** @param onLeaseLost another instance writes the journal now: what waits here is given up, and nothing more is taken */
  constructor(group: GroupCommit<Row, Result>, epoch: number, onLeaseLost: () => void) {
    this.group = group;
    this.epoch = epoch;
    this.onLeaseLost = onLeaseLost;
  }

  /** Whether a row would be taken now. */
  get hasRoom(): boolean {
    return !this.stopped && this.group.hasRoom;
  }

  get isStopped(): boolean {
    return this.stopped;
  }

  /** What cannot be written is not tried again. */
  get isAbandoned(): boolean {
    return this.abandoned;
  }

  /** @throws RelayError service-busy when the queue is full or the service stops */
  enqueue(row: Row): Promise<Result> {
    if (this.stopped) return Promise.reject(new RelayError("service-busy", { why: "The service is stopping" }));
    if (!this.group.hasRoom)
      return Promise.reject(new RelayError("service-busy", { why: "Too many requests wait for the journal" }));
    this.enqueued += 1;
    return new Promise((resolve, reject) => this.group.add({ row, by: this, resolve, reject }));
  }

  /** Resolves when everything enqueued so far is durable, or was refused. */
  async settled(): Promise<void> {
    const count = this.enqueued;
    if (this.done < count) await new Promise<void>((resolve) => this.untilDone.push({ count, resolve }));
    // Those who wait for their rows know by then.
    await new Promise(setImmediate);
  }

  /** Takes nothing new, and resolves when everything enqueued so far is durable or given up. */
  async stop(): Promise<void> {
    this.stopped = true;
    this.group.hurry();
    await this.settled();
  }

  /** Gives up what cannot be written: for a stop whose time has run out. */
  abandon(): void {
    this.abandoned = true;
    for (const entry of this.group.takeBack(this))
      this.refused(entry, new RelayError("service-busy", { why: "The service stopped" }));
  }

  /** For `GroupCommit`, as the next two. */
  written({ resolve }: Entry<Row, Result>, result: Result): void {
    resolve(result);
    this.noteDone();
  }

  refused({ reject }: Entry<Row, Result>, error: unknown): void {
    reject(error);
    this.noteDone();
  }

  loseLease(): void {
    this.stopped = true;
    for (const entry of this.group.takeBack(this)) this.refused(entry, tookOver());
    this.onLeaseLost();
  }

  /** Rows end in the order in which they came, but for those that are given up. */
  private noteDone(): void {
    this.done += 1;
    if (this.untilDone.length === 0) return;
    const due = this.untilDone.filter(({ count }) => count <= this.done);
    this.untilDone = this.untilDone.filter(({ count }) => count > this.done);
    for (const { resolve } of due) resolve();
  }
}

function epochsOf(batch: readonly { readonly by: { readonly epoch: number } }[]): readonly number[] {
  return inLockOrder([...new Set(batch.map(({ by }) => by.epoch))]);
}

/** Those of them that were tried may have been kept: nobody here knows. */
function withoutAbandoned<Row, Result>(batch: readonly Entry<Row, Result>[]): readonly Entry<Row, Result>[] {
  for (const entry of batch) if (entry.by.isAbandoned) entry.by.refused(entry, new RelayError("holder-lost"));
  return batch.filter(({ by }) => !by.isAbandoned);
}

function tookOver(): RelayError {
  return new RelayError("service-busy", { why: "Another instance has just taken over" });
}
