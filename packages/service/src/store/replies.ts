/** What was said back to whoever asked, and whether it was taken. */
import { withoutSecrets } from "@bold-relay/core";
import { timestamp } from "../platform/clock.ts";
import type { Db, Pool } from "./pool.ts";
import { storableJson } from "./storable.ts";

export interface ReplyRecord {
  /** ms since 1970. */
  readonly at: number;
  /** As the answer to a call, posted to an address, published on a topic, or typed into a session. */
  readonly how: "answer" | "post" | "topic" | "typed";
  readonly said: string;
  /** Whether the other side took it, as far as its connection tells. */
  readonly taken: boolean;
  /** Why not; null when it was. */
  readonly why: string | null;
}

export type ReplyRow = ReplyRecord & { readonly request: string };

/** One statement for all of them. Repeated after a lost connection it may keep one twice, which misleads nobody. */
export async function saveReplies(pool: Pool, rows: readonly ReplyRow[]): Promise<void> {
  await pool.query(
    `insert into reply (request_id, at, how, said, taken, why)
     select request_id, at, how, said, taken, why from json_to_recordset($1) as r(
       request_id uuid, at timestamptz, how text, said text, taken boolean, why text)`,
    [
      storableJson(
        rows.map(({ request, at, ...row }) => ({
          ...row,
          said: withoutSecrets(row.said),
          request_id: request,
          at: timestamp(at),
        })),
      ),
    ],
  );
}

/** What was said back to a request, oldest first. */
export async function findReplies(db: Db, request: string): Promise<ReplyRecord[]> {
  const { rows } = await db.query(
    `select extract(epoch from at)::float8 * 1000 as at, how, said, taken, why from reply
     where request_id = $1 order by at`,
    [request],
  );
  return rows;
}
