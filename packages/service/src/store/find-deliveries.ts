/**
 * The journal's list: requests, newest first, each filter with the index that serves it. What drives the scan is
 * chosen here, not left to the planner: a rare kind of end must not make it read the whole journal backwards.
 */
import type { DeliveryEnd } from "@bold-relay/api";
import type { ChannelId } from "@bold-relay/core";
import { findWords, idsOfHour } from "./asked-words.ts";
import { REQUEST_COLUMNS, type RequestRecord } from "./find-requests.ts";
import type { Db } from "./pool.ts";

export interface DeliveryFilter {
  readonly limit: number;
  /** Only requests before this one. */
  readonly before: string | null;
  readonly channel: ChannelId | null;
  /** Only what is about these channels, ended on arrival at these sites, or was asked by this person; null: everything. */
  readonly within: {
    readonly channels: readonly ChannelId[];
    /** Slugs. */
    readonly sites: readonly string[];
    readonly asker: string;
  } | null;
  readonly asker: string | null;
  readonly ended: DeliveryEnd | null;
  /** The requests that are open at this moment, of the channel where one is given: their commands are in no index. */
  readonly open: readonly string[];
  /** Words are looked for only since an id. */
  readonly words: WordFilter | null;
}

interface WordFilter {
  readonly text: string;
  /** The channels whose names have the words, and the open requests for them: found without reading any text. */
  readonly channels: readonly ChannelId[];
  readonly open: readonly string[];
  readonly since: string;
}

/** The ends that each word stands for, exactly as the partial indexes are defined. */
const ENDED = {
  reached: "c.ended = 'complete'",
  stopped: "c.ended in ('failed', 'unanswered', 'expired')",
  replaced: "c.ended in ('superseded', 'overtaken')",
} as const;

export async function findDeliveries(db: Db, filter: DeliveryFilter): Promise<RequestRecord[]> {
  const lists = await Promise.all(sourcesOf(filter).map((source) => read(db, source, filter)));
  const found = new Map(lists.flat().map((record) => [record.id, record]));
  return [...found.values()].sort((one, other) => (one.id < other.id ? 1 : -1)).slice(0, filter.limit);
}

/** One scan of one index. Its rows are newest first, so that a few of each make the newest of all. */
interface Source {
  /** `command` drives the scan: those of these channels, or of all. */
  readonly commands?: readonly ChannelId[] | "all";
  /** Only these requests. */
  readonly requests?: readonly string[];
  /** The words must stand in the request itself. */
  readonly byText: boolean;
  /** Only of these people, in lower case. */
  readonly askers?: readonly string[];
  /** Only of this hour, ms since 1970. */
  readonly hour?: number;
}

/** The scans that together find everything: ended commands, open requests, text, and names of channels. */
function sourcesOf({ channel, ended, open, words }: DeliveryFilter): Source[] {
  const byText = words !== null;
  const ofCommand = ended === "reached" || ended === "stopped" || ended === "replaced";
  const sources: Source[] = [];
  if (channel !== null) {
    if (ended !== "open" && ended !== "refused") sources.push({ commands: [channel], byText });
    if (ended === null || ended === "open") sources.push({ requests: open, byText });
  } else {
    sources.push({ ...(ofCommand && { commands: "all" }), ...(ended === "open" && { requests: open }), byText });
  }
  if (words === null) return sources;
  const named = words.channels.filter((one) => channel === null || one === channel);
  if (named.length > 0 && ended !== "open" && ended !== "refused") sources.push({ commands: named, byText: false });
  if (ended === null || ended === "open") sources.push({ requests: words.open, byText: false });
  return sources;
}

/** One that would have to read every request of the day looks first where the words can be. */
async function read(db: Db, source: Source, filter: DeliveryFilter): Promise<RequestRecord[]> {
  const { words, before } = filter;
  if (words === null || !source.byText || source.requests || Array.isArray(source.commands))
    return select(db, source, filter);
  const { askers, hours } = await findWords(db, likeOf(words.text), words.since);
  const found = askers.length > 0 ? await select(db, { ...source, byText: false, askers }, filter) : [];
  const wanted = filter.limit + found.length;
  for (const hour of hours) {
    if (found.length >= wanted) break;
    if (before === null || idsOfHour(hour).from < before)
      found.push(...(await select(db, { ...source, hour }, filter)));
  }
  return found;
}

/** For `ilike`: these words, anywhere. */
function likeOf(text: string): string {
  return `%${text.replace(/[\\%_]/g, "\\$&")}%`;
}

async function select(db: Db, source: Source, filter: DeliveryFilter): Promise<RequestRecord[]> {
  const { limit, before, asker, ended, words, within } = filter;
  const { commands, requests, byText, askers, hour } = source;
  const [from, id] = commands
    ? ["command c join request r on r.id = c.request_id", "c.request_id"]
    : ["request r", "r.id"];
  const values: unknown[] = [];
  const value = (one: unknown) => `$${values.push(one)}`;
  const where = ["true"];
  if (Array.isArray(commands)) where.push(`c.channel_id = any(${value(commands)}::int[])`);
  if (commands && ended !== null) where.push(ENDED[ended as keyof typeof ENDED]);
  if (ended === "refused") where.push("r.outcome is not null");
  if (requests) where.push(`r.id = any(${value(requests)}::uuid[])`);
  if (before !== null) where.push(`${id} < ${value(before)}::uuid`);
  if (asker !== null) where.push(`lower(r.asker) = lower(${value(asker)})`);
  if (askers) where.push(`lower(r.asker) = any(${value(askers)}::text[])`);
  if (hour !== undefined) {
    const { from: first, to } = idsOfHour(hour);
    where.push(`${id} >= ${value(first)}::uuid and ${id} < ${value(to)}::uuid`);
  }
  if (within !== null) {
    const channels = `any(${value(within.channels)}::int[])`;
    where.push(`(r.asker = ${value(within.asker)} or r.site = any(${value(within.sites)}::text[])
      or exists (select from command k where k.request_id = r.id and k.channel_id = ${channels})
      or exists (select from open_command k where k.request_id = r.id and k.channel_id = ${channels}))`);
  }
  if (words !== null) where.push(`${id} >= ${value(words.since)}::uuid`);
  if (words !== null && byText) {
    const like = value(likeOf(words.text));
    where.push(`(r.asker ilike ${like} or r.inlet ilike ${like} or r.target ilike ${like})`);
  }
  const text = `select ${REQUEST_COLUMNS} from ${from} where ${where.join(" and ")} order by ${id} desc limit ${value(limit)}`;
  return (await db.query(text, values)).rows;
}
