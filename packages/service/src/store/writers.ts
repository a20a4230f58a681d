/** The journal's two writers: one makes requests durable, the other what was learnt since. Each has one statement in flight. */
import { limits } from "../config/config.ts";
import type { Log } from "../log.ts";
import { type AcceptResult, type AcceptRow, acceptRequests } from "./accept-requests.ts";
import { GroupCommit } from "./group-commit.ts";
import type { Pool } from "./pool.ts";
import { type SettleRow, settleCommands } from "./settle-commands.ts";

export interface Writers {
  readonly accept: GroupCommit<AcceptRow, AcceptResult>;
  /** Apart from `accept`, so that evidence from devices is written however many requests wait. */
  readonly settle: GroupCommit<SettleRow, void>;
}

export function createWriters(pool: Pool, log: Log): Writers {
  const common = { batchRows: limits.batchRows, log };
  return {
    accept: new GroupCommit<AcceptRow, AcceptResult>({
      ...common,
      name: "accept",
      queueLimit: limits.acceptQueue,
      write: (rows, repeated) => acceptRequests(pool, rows, repeated),
    }),
    settle: new GroupCommit<SettleRow, void>({
      ...common,
      name: "settle",
      queueLimit: limits.settleQueue,
      write: async (rows) => {
        await settleCommands(pool, rows);
        return rows.map(() => undefined);
      },
    }),
  };
}
