/** The journal's writers: one makes requests durable, one what was learnt since, one what was said back. Each has one statement in flight. */
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import { acceptRequests } from "./accept-requests.ts";
import type { AcceptResult, AcceptRow } from "./accept-rows.ts";
import { KnownWords } from "./asked-words.ts";
import { GroupCommit, LeaseWriter } from "./group-commit.ts";
import type { Pool } from "./pool.ts";
import { type ReplyRow, saveReplies } from "./replies.ts";
import { type SettleRow, settleCommands } from "./settle-commands.ts";

/** Those of one shard. */
export interface ShardWriters {
  readonly accept: LeaseWriter<AcceptRow, AcceptResult>;
  /** Apart from `accept`, so that evidence from devices is written however many requests wait. */
  readonly settle: LeaseWriter<SettleRow, void>;
}

/** Nobody waits for it, and nothing depends on it: it needs no lease. */
export type ReplyWriter = LeaseWriter<ReplyRow, void>;

/** How many there are: each has one connection while it writes. */
export const WRITERS = 3;

/** Of no lease. */
const NO_EPOCH = 0;

/** What keeps groups of rows. `repeated`: the same rows may be kept already. `epochs`: prove the leases that they are written under. */
export interface JournalBackend {
  accept(rows: readonly AcceptRow[], repeated: boolean, epochs: readonly number[]): Promise<readonly AcceptResult[]>;
  settle(rows: readonly SettleRow[], epochs: readonly number[]): Promise<void>;
  reply(rows: readonly ReplyRow[]): Promise<void>;
}

export function databaseBackend(pool: Pool): JournalBackend {
  const words = new KnownWords();
  return {
    accept: (rows, repeated, epochs) => acceptRequests(pool, rows, repeated, words, epochs),
    settle: (rows, epochs) => settleCommands(pool, rows, epochs),
    reply: (rows) => saveReplies(pool, rows),
  };
}

export interface WritersDeps {
  readonly backend: JournalBackend;
  readonly log: Log;
  /** Told how long each commit group took, ms. */
  readonly onCommit: (writer: string, ms: number) => void;
}

/** Of one instance, for all shards that it leads. */
export class Writers {
  private readonly accept: GroupCommit<AcceptRow, AcceptResult>;
  private readonly settle: GroupCommit<SettleRow, void>;
  private readonly replies: GroupCommit<ReplyRow, void>;
  readonly reply: ReplyWriter;

  constructor({ backend, log, onCommit }: WritersDeps) {
    const common = (name: string) => ({
      name,
      log,
      batchRows: limits.batchRows,
      onCommit: (ms: number) => onCommit(name, ms),
    });
    this.accept = new GroupCommit<AcceptRow, AcceptResult>({
      ...common("accept"),
      queueLimit: limits.acceptQueue,
      write: (rows, repeated, epochs) => backend.accept(rows, repeated, epochs),
    });
    this.settle = new GroupCommit<SettleRow, void>({
      ...common("settle"),
      queueLimit: limits.settleQueue,
      async write(rows, _, epochs) {
        await backend.settle(rows, epochs);
        return rows.map(() => undefined);
      },
    });
    this.replies = new GroupCommit<ReplyRow, void>({
      ...common("reply"),
      queueLimit: limits.replyQueue,
      gatherMs: limits.replyGatherMs,
      async write(rows) {
        await backend.reply(rows);
        return rows.map(() => undefined);
      },
    });
    this.reply = new LeaseWriter(this.replies, NO_EPOCH, () => {});
  }

  /** @param onLeaseLost another instance has taken over: nothing more can be written */
  ofShard(epoch: number, onLeaseLost: () => void): ShardWriters {
    return {
      accept: new LeaseWriter(this.accept, epoch, onLeaseLost),
      settle: new LeaseWriter(this.settle, epoch, onLeaseLost),
    };
  }

  /** Why one of them cannot write just now; null when all can. */
  get trouble(): string | null {
    return this.accept.trouble ?? this.settle.trouble ?? this.replies.trouble;
  }

  /** Rows that wait for their commit. */
  get queued(): { readonly accept: number; readonly settle: number } {
    return { accept: this.accept.queued, settle: this.settle.queued };
  }
}
