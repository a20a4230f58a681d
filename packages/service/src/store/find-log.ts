/**
 * The journal's list: requests, newest first, each filter with the index that serves it. What drives the scan is
 * chosen here, not left to the planner: a rare kind of end must not make it read the whole journal backwards.
 */
import type { LogResult } from "@bold-relay/api";
import type { ChannelId } from "@bold-relay/core";
import { findWords, idsOfHour } from "./asked-words.ts";
import { REQUEST_COLUMNS, type RequestRecord } from "./find-requests.ts";
import type { Db } from "./pool.ts";
import type { Placeholder } from "./row-source.ts";

export interface LogFilter {
  readonly limit: number;
  /** Only requests before this one. */
  readonly before: string | null;
  readonly channel: ChannelId | null;
  /** Of some site only; null: everything. */
  readonly scope: Scope | null;
  readonly asker: string | null;
  readonly result: LogResult | null;
  /** The requests that are open at this moment, of the channel where one is given: their commands are in no index. */
  readonly open: readonly string[];
  /** Words are looked for only since an id. */
  readonly words: WordFilter | null;
}

/** What belongs to some site, or was asked by somebody. */
interface Scope {
  readonly channels: readonly ChannelId[];
  /** The requests that are open for those at this moment. */
  readonly open: readonly string[];
  /** Slugs: what ended on arrival belongs to one of them. */
  readonly sites: readonly string[];
  /** Whose own requests belong to it as well, by the member's id; null: nobody's. */
  readonly member: number | null;
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
  delivered: "c.ended = 'delivered'",
  "not-delivered": "c.ended in ('failed', 'unanswered', 'expired')",
  replaced: "c.ended in ('replaced', 'overtaken')",
} as const;

export async function findLog(db: Db, filter: LogFilter): Promise<RequestRecord[]> {
  const lists = await Promise.all(sourcesOf(filter).map((source) => read(db, source, filter)));
  const found = new Map(lists.flat().map((record) => [record.id, record]));
  return [...found.values()].sort((one, other) => (one.id < other.id ? 1 : -1)).slice(0, filter.limit);
}

/** One scan of one index. Its rows are newest first, so that a few of each make the newest of all. */
interface Source {
  /** `command` drives the scan: those of these channels, or of all. */
  readonly commands?: readonly ChannelId[] | "all";
  /** Ended on arrival at these sites. */
  readonly sites?: readonly string[];
  /** Only these requests. */
  readonly requests?: readonly string[];
  /** The words must stand in the request itself. */
  readonly byText: boolean;
  /** Only what this member asked. */
  readonly member?: number;
  /** Only of these people, in lower case. */
  readonly askers?: readonly string[];
  /** Only of this hour, ms since 1970. */
  readonly hour?: number;
  /** All that it finds is in scope. */
  readonly isScoped?: boolean;
}

/** The scans that together find everything: ended commands, open requests, text, and names of channels. */
function sourcesOf(filter: LogFilter): Source[] {
  const { channel, scope, asker, result, open, words } = filter;
  if (scope !== null && channel === null && asker === null && words === null) return sourcesOfScope(scope, result);
  const byText = words !== null;
  const sources: Source[] = [];
  if (channel !== null) {
    if (mayHaveEnded(result)) sources.push({ commands: [channel], byText });
    if (mayBeOpen(result)) sources.push({ requests: open, byText });
  } else {
    const ofCommand = result !== null && result in ENDED;
    sources.push({ ...(ofCommand && { commands: "all" }), ...(result === "open" && { requests: open }), byText });
  }
  if (words === null) return sources;
  const named = words.channels.filter((one) => channel === null || one === channel);
  if (named.length > 0 && mayHaveEnded(result)) sources.push({ commands: named, byText: false });
  if (mayBeOpen(result)) sources.push({ requests: words.open, byText: false });
  return sources;
}

/** Each channel and each site by itself: what is rare among all that was asked is not looked for there. */
function sourcesOfScope({ channels, open, sites, member }: Scope, result: LogFilter["result"]): Source[] {
  const common = { byText: false, isScoped: true };
  const sources: Source[] = [];
  if (mayHaveEnded(result)) sources.push({ ...common, commands: channels });
  if (mayBeOpen(result)) sources.push({ ...common, requests: open });
  if (result === null || result === "refused") sources.push({ ...common, sites });
  if (member !== null) sources.push({ ...common, member });
  return sources;
}

function mayHaveEnded(result: LogFilter["result"]): boolean {
  return result !== "open" && result !== "refused";
}

function mayBeOpen(result: LogFilter["result"]): boolean {
  return result === null || result === "open";
}

/** One that would have to read every request of the day looks first where the words can be. */
async function read(db: Db, source: Source, filter: LogFilter): Promise<RequestRecord[]> {
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

async function select(db: Db, source: Source, filter: LogFilter): Promise<RequestRecord[]> {
  const { commands, sites } = source;
  if (Array.isArray(commands)) {
    if (source.isScoped && commands.length > FEW_CHANNELS) {
      const recent = await query(db, (value) => recentOfChannels(commands, filter, value));
      if (recent.length === filter.limit) return recent;
    }
    return query(db, (value) => ofChannels(commands, source, filter, value));
  }
  return query(db, (value) => (sites ? ofSites(sites, filter, value) : ofAll(source, filter, value)));
}

async function query(db: Db, textWith: (value: Placeholder) => string): Promise<RequestRecord[]> {
  const values: unknown[] = [];
  const text = textWith((one) => `$${values.push(one)}`);
  return (await db.query(text, values)).rows;
}

/** So many are looked at one by one at once. */
const FEW_CHANNELS = 32;
/** Of a busy site a page of requests is found among so many of all sites. */
const RECENT = 2_000;

/** Of a large site: what is found among the newest commands of all. A full page is the answer; of less, the rest must be looked for. */
function recentOfChannels(channels: readonly ChannelId[], filter: LogFilter, value: Placeholder): string {
  const where = conditionsOf({ byText: false, isScoped: true }, filter, "c.request_id", value);
  if (filter.result !== null) where.push(ENDED[filter.result as keyof typeof ENDED]);
  return `
    select ${REQUEST_COLUMNS} from (
      select distinct recent.request_id as id from (
        select c.request_id, c.channel_id from command c where ${where.join(" and ")} order by c.request_id desc limit ${RECENT}
      ) recent where recent.channel_id = any(${value(channels)}::int[]) order by 1 desc limit ${value(filter.limit)}
    ) newest join request r on r.id = newest.id order by r.id desc`;
}

/**
 * The newest of each channel, and of those the newest: joined with all channels at once the planner would sort everything they ever did. Each is
 * named by a range of one, so that only the index by channel has the order: see `channel-state.ts`.
 */
function ofChannels(channels: readonly ChannelId[], source: Source, filter: LogFilter, value: Placeholder): string {
  const limit = value(filter.limit);
  const where = conditionsOf(source, filter, "c.request_id", value);
  if (filter.result !== null) where.push(ENDED[filter.result as keyof typeof ENDED]);
  const known = source.isScoped ? "" : "join request r on r.id = c.request_id";
  return `
    select ${REQUEST_COLUMNS} from (
      select distinct of_one.id from unnest(${value(channels)}::int[]) as each (channel) cross join lateral (
        select distinct on (c.channel_id, c.request_id) c.request_id as id from command c ${known}
        where c.channel_id between each.channel and each.channel and ${where.join(" and ")}
        order by c.channel_id, c.request_id desc limit ${limit}
      ) of_one order by of_one.id desc limit ${limit}
    ) newest join request r on r.id = newest.id order by r.id desc`;
}

function ofSites(sites: readonly string[], { limit, before }: LogFilter, value: Placeholder): string {
  const most = value(limit);
  const until = before === null ? "" : `and r.id < ${value(before)}::uuid`;
  return `
    select ${REQUEST_COLUMNS} from unnest(${value(sites)}::text[]) as each (slug) cross join lateral (
      select * from request r where r.site between each.slug and each.slug ${until} order by r.site, r.id desc limit ${most}
    ) r order by r.id desc limit ${most}`;
}

function ofAll(source: Source, filter: LogFilter, value: Placeholder): string {
  const { result } = filter;
  const where = conditionsOf(source, filter, source.commands ? "c.request_id" : "r.id", value);
  if (result === "refused") where.push("r.outcome is not null");
  if (result === "open" && !source.requests) where.push(`r.id = any(${value(filter.open)}::uuid[])`);
  const isOfCommand = result !== null && result in ENDED;
  // Of few people it is quicker to look at each of their requests than at every command.
  if (isOfCommand && !source.commands)
    where.push(`exists (select from command c where c.request_id = r.id and ${ENDED[result as keyof typeof ENDED]})`);
  const limit = value(filter.limit);
  if (!isOfCommand || !source.commands)
    return `select ${REQUEST_COLUMNS} from request r where ${where.join(" and ")} order by r.id desc limit ${limit}`;
  where.push(ENDED[result as keyof typeof ENDED]);
  // Several commands of one request are one row here, or a page would be full before it is.
  return `select distinct on (c.request_id) ${REQUEST_COLUMNS} from command c join request r on r.id = c.request_id
    where ${where.join(" and ")} order by c.request_id desc limit ${limit}`;
}

/** @param id the column that holds the request's id in what drives the scan */
function conditionsOf(source: Source, filter: LogFilter, id: string, value: Placeholder): string[] {
  const { before, asker, words, scope } = filter;
  const { requests, byText, askers, member, hour, isScoped = false } = source;
  const where = ["true"];
  if (requests) where.push(`r.id = any(${value(requests)}::uuid[])`);
  if (before !== null) where.push(`${id} < ${value(before)}::uuid`);
  if (asker !== null) where.push(`lower(r.asker) = lower(${value(asker)})`);
  if (askers) where.push(`lower(r.asker) = any(${value(askers)}::text[])`);
  if (hour !== undefined) {
    const { from: first, to } = idsOfHour(hour);
    where.push(`${id} >= ${value(first)}::uuid and ${id} < ${value(to)}::uuid`);
  }
  if (scope !== null && !isScoped) where.push(isInScope(scope, value));
  if (member !== undefined) where.push(`r.member_id = ${value(member)}`);
  if (words !== null) where.push(`${id} >= ${value(words.since)}::uuid`);
  if (words !== null && byText) {
    const like = value(likeOf(words.text));
    where.push(`(r.asker ilike ${like} or r.inlet ilike ${like} or r.target ilike ${like})`);
  }
  return where;
}

function isInScope({ channels, sites, member }: Scope, value: Placeholder): string {
  const among = `any(${value(channels)}::int[])`;
  return `(r.member_id = ${value(member)} or r.site = any(${value(sites)}::text[])
    or exists (select from command k where k.request_id = r.id and k.channel_id = ${among})
    or exists (select from open_command k where k.request_id = r.id and k.channel_id = ${among}))`;
}
