/**
 * The journal's list: requests, newest first, each filter with the index that serves it. What drives the scan is
 * chosen here, not left to the planner: a rare kind of end must not make it read the whole journal backwards.
 */
import type { DeliveryEnd } from "@bold-relay/api";
import type { ChannelId } from "@bold-relay/core";
import { REQUEST_COLUMNS, type RequestRecord } from "./find-requests.ts";
import type { Db } from "./pool.ts";

export interface DeliveryFilter {
  readonly limit: number;
  /** Only requests before this one. */
  readonly before: string | null;
  readonly channel: ChannelId | null;
  readonly asker: string | null;
  readonly ended: DeliveryEnd | null;
  /** The requests that are open at this moment, of the channel where one is given: their commands are in no index. */
  readonly open: readonly string[];
  /** Words are looked for only since an id: text has no index. */
  readonly words: { readonly text: string; readonly channels: readonly ChannelId[]; readonly since: string } | null;
}

/** The ends that each word stands for, exactly as the partial indexes are defined. */
const ENDED = {
  reached: "c.ended = 'complete'",
  stopped: "c.ended in ('failed', 'unanswered', 'expired')",
  replaced: "c.ended in ('superseded', 'overtaken')",
} as const;

export async function findDeliveries(db: Db, filter: DeliveryFilter): Promise<RequestRecord[]> {
  const { channel, ended, open } = filter;
  const ofCommand = ended === "reached" || ended === "stopped" || ended === "replaced";
  if (ended === "open") return select(db, "request r", filter, { open });
  if (ended === "refused") return channel === null ? select(db, "request r", filter, {}) : [];
  if (channel === null && !ofCommand) return select(db, "request r", filter, {});
  const settled = await select(db, "command c join request r on r.id = c.request_id", filter, { ofCommand: true });
  if (ofCommand) return settled;
  const all = new Map([...settled, ...(await select(db, "request r", filter, { open }))].map((one) => [one.id, one]));
  return [...all.values()].sort((one, other) => (one.id < other.id ? 1 : -1)).slice(0, filter.limit);
}

interface Source {
  /** `command c` drives the scan. */
  readonly ofCommand?: boolean;
  /** Only these requests. */
  readonly open?: readonly string[];
}

async function select(
  db: Db,
  from: string,
  filter: DeliveryFilter,
  { ofCommand, open }: Source,
): Promise<RequestRecord[]> {
  const { limit, before, channel, asker, ended, words } = filter;
  const id = ofCommand ? "c.request_id" : "r.id";
  const values: unknown[] = [];
  const value = (one: unknown) => `$${values.push(one)}`;
  const where = ["true"];
  if (ofCommand && channel !== null) where.push(`c.channel_id = ${value(channel)}`);
  if (ofCommand && ended !== null) where.push(ENDED[ended as keyof typeof ENDED]);
  if (!ofCommand && ended === "refused") where.push("r.outcome is not null");
  if (open !== undefined) where.push(`r.id = any(${value(open)}::uuid[])`);
  if (before !== null) where.push(`${id} < ${value(before)}::uuid`);
  if (asker !== null) where.push(`lower(r.asker) = lower(${value(asker)})`);
  if (words !== null) {
    const like = value(`%${words.text.replace(/[\\%_]/g, "\\$&")}%`);
    const named = `exists (select from command w where w.request_id = r.id and w.channel_id = any(${value(words.channels)}::int[]))`;
    where.push(`${id} >= ${value(words.since)}::uuid`);
    where.push(`(r.asker ilike ${like} or r.inlet ilike ${like} or r.target ilike ${like} or ${named})`);
  }
  const text = `select ${REQUEST_COLUMNS} from ${from} where ${where.join(" and ")} order by ${id} desc limit ${value(limit)}`;
  return (await db.query(text, values)).rows;
}
