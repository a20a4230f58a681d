/** The journal's writers: of each shard one makes requests durable and one what was learnt since; one writes what was said back. Each has one statement in flight. */
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import { acceptRequests } from "./accept-requests.ts";
import type { AcceptResult, AcceptRow } from "./accept-rows.ts";
import { KnownWords } from "./asked-words.ts";
import { GroupCommit } from "./group-commit.ts";
import type { Pool } from "./pool.ts";
import { type ReplyRow, saveReplies } from "./replies.ts";
import { type SettleRow, settleCommands } from "./settle-commands.ts";

/** Those of one shard. */
export interface ShardWriters {
  readonly accept: GroupCommit<AcceptRow, AcceptResult>;
  /** Apart from `accept`, so that evidence from devices is written however many requests wait. */
  readonly settle: GroupCommit<SettleRow, void>;
}

/** Nobody waits for it, and nothing depends on it: it needs no lease. */
export type ReplyWriter = GroupCommit<ReplyRow, void>;

/** How many there are for one shard and for all of them: each has one connection while it writes. */
export const WRITERS_OF_SHARD = 2;
export const SHARED_WRITERS = 1;

/** What keeps groups of rows. `repeated`: the same rows may be kept already. */
export interface JournalBackend {
  accept(rows: readonly AcceptRow[], repeated: boolean): Promise<readonly AcceptResult[]>;
  settle(rows: readonly SettleRow[]): Promise<void>;
  reply(rows: readonly ReplyRow[]): Promise<void>;
}

/** @param epoch proves that this instance holds the lanes */
export function databaseBackend(pool: Pool, epoch: number): JournalBackend {
  const words = new KnownWords();
  return {
    accept: (rows, repeated) => acceptRequests(pool, rows, repeated, words, epoch),
    settle: (rows) => settleCommands(pool, rows, epoch),
    reply: (rows) => saveReplies(pool, rows),
  };
}

export interface WritersDeps {
  readonly backend: JournalBackend;
  readonly log: Log;
  /** Told how long each commit group took, ms. */
  readonly onCommit: (writer: string, ms: number) => void;
}

export interface ShardWritersDeps extends WritersDeps {
  /** Another instance has taken over: nothing more can be written. */
  readonly onLeaseLost: () => void;
}

export function createShardWriters({ backend, log, onLeaseLost, onCommit }: ShardWritersDeps): ShardWriters {
  const common = { batchRows: limits.batchRows, log, onLeaseLost };
  return {
    accept: new GroupCommit<AcceptRow, AcceptResult>({
      ...common,
      name: "accept",
      onCommit: (ms) => onCommit("accept", ms),
      queueLimit: limits.acceptQueue,
      write: (rows, repeated) => backend.accept(rows, repeated),
    }),
    settle: new GroupCommit<SettleRow, void>({
      ...common,
      name: "settle",
      onCommit: (ms) => onCommit("settle", ms),
      queueLimit: limits.settleQueue,
      write: async (rows) => {
        await backend.settle(rows);
        return rows.map(() => undefined);
      },
    }),
  };
}

export function createReplyWriter({ backend, log, onCommit }: WritersDeps): ReplyWriter {
  return new GroupCommit<ReplyRow, void>({
    batchRows: limits.batchRows,
    log,
    onLeaseLost: () => {},
    name: "reply",
    onCommit: (ms) => onCommit("reply", ms),
    queueLimit: limits.replyQueue,
    gatherMs: limits.replyGatherMs,
    write: async (rows) => {
      await backend.reply(rows);
      return rows.map(() => undefined);
    },
  });
}
