/** Requests as they stand: the journal's part, with what is open in memory laid over it. */
import type { LogPage, LogQuery, RequestView, TraceView } from "@bold-relay/api";
import {
  type ChannelId,
  DAY_MS,
  devicePresence,
  type ErrorFacts,
  normalName,
  presenceSource,
  RelayError,
  resolveName,
  type Snapshot,
  smallestIdAt,
  traceIdOf,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import { type OpenRequests, recordsOf } from "../state/open-requests.ts";
import { findLog, type LogFilter } from "../store/find-log.ts";
import { type CommandRecord, findCommands, findRequests, type RequestRecord } from "../store/find-requests.ts";
import type { Pool } from "../store/pool.ts";
import { findReplies } from "../store/replies.ts";
import { commandView, hopViews } from "../views/command-view.ts";
import { isWithin, narrowed } from "../views/reach.ts";
import { requestView } from "../views/request-view.ts";

const DEFAULT_LIMIT = 50;

/** Who reads, and what they may see: what is of these sites, and what they asked themselves. */
export interface Reader {
  /** null: nobody's own requests count. */
  readonly memberId: number | null;
  /** null: every site. */
  readonly sites: readonly string[] | null;
}

/** Requests whose lanes are at other instances. */
export interface OpenElsewhere {
  /** The ids of those with a command for one of these channels; null: of all. */
  idsOn(channels: readonly ChannelId[] | null): Promise<string[]>;
  /** Their commands as they stand. */
  commandsOf(requests: readonly string[]): Promise<CommandRecord[]>;
}

export class RequestQueries {
  private readonly clock: Clock;
  private readonly pool: Pool;
  private readonly board: Board;
  private searched: { readonly snapshot: Snapshot; readonly texts: readonly { id: ChannelId; text: string }[] } | null =
    null;
  private readonly openRequests: OpenRequests;
  /** What is open at other instances; it stays what it is where there are none. */
  elsewhere: OpenElsewhere = { idsOn: async () => [], commandsOf: async () => [] };

  constructor(clock: Clock, pool: Pool, board: Board, openRequests: OpenRequests) {
    this.clock = clock;
    this.pool = pool;
    this.board = board;
    this.openRequests = openRequests;
  }

  /** @throws RelayError not-found, also when the reader may not see it */
  async view(id: string, reader: Reader): Promise<RequestView> {
    const { request, commands } = await this.readAs(id, reader);
    return requestView(request, commands, this.board);
  }

  /** The facts of a refusal that the journal keeps, so that it can be told again in the same words. */
  async refusalFacts(id: string): Promise<ErrorFacts> {
    const { request } = await this.read(id);
    return { ...request.refusal?.facts, request: id };
  }

  /** @throws RelayError not-found, also when the reader may not see it */
  async trace(id: string, reader: Reader): Promise<TraceView> {
    const { request, commands } = await this.readAs(id, reader);
    const replies = await findReplies(this.pool, id);
    return {
      ...requestView(request, commands, this.board),
      traceId: traceIdOf(request.id, request.traceparent),
      replies: replies.map(({ at, ...reply }) => ({ ...reply, afterMs: Math.max(0, at - request.askedAt) })),
      traces: commands.map((record) => ({
        command: commandView(record, this.board),
        device: this.deviceOf(record),
        hops: hopViews(record),
      })),
    };
  }

  /**
   * One page of log, newest first.
   *
   * @throws RelayError not-found when the query names a channel or sites that do not exist, or may not be seen
   */
  async page(query: LogQuery, reader: Reader): Promise<LogPage> {
    const { limit = DEFAULT_LIMIT } = query;
    const found = await findLog(this.pool, {
      ...(await this.filterOf(query, reader)),
      scope: await this.scopeOf(query.site, reader),
      limit: limit + 1,
    });
    const requests = found.slice(0, limit);
    const more = found.length > limit;
    return { requests: await this.views(requests), next: more ? (requests.at(-1)?.id ?? null) : null };
  }

  private async filterOf(query: LogQuery, reader: Reader): Promise<Omit<LogFilter, "limit" | "scope">> {
    const { before, channel, asker, result, words } = query;
    const channelId = channel === undefined ? null : this.channelNamed(channel, reader);
    const elsewhere = await this.elsewhere.idsOn(channelId === null ? null : [channelId]);
    return {
      before: before ?? null,
      channel: channelId,
      asker: asker ?? null,
      result: result ?? null,
      open: [...this.openRequests.idsOn(channelId), ...elsewhere],
      words: words === undefined ? null : await this.wordFilter(words),
    };
  }

  /** @param site the only sites that are wanted; what one asked oneself must then be of those, too */
  private async scopeOf(site: string | undefined, reader: Reader): Promise<LogFilter["scope"]> {
    const sites = narrowed(site, reader.sites, this.board.snapshot);
    if (sites === null) return null;
    const entries = this.board.snapshot.channels.filter((channel) => sites.includes(channel.site.slug));
    const channels = entries.map(({ id }) => id);
    return {
      channels,
      open: [...this.openRequests.openFor(channels), ...(await this.elsewhere.idsOn(channels))],
      sites,
      member: site === undefined ? reader.memberId : null,
    };
  }

  private async readAs(id: string, { memberId, sites }: Reader) {
    const found = await this.read(id);
    const { request, commands } = found;
    const siteOf = ({ channelId }: CommandRecord) => this.board.snapshot.byId.get(channelId)?.site.slug ?? null;
    const isOf = (site: string | null) => isWithin(site, sites);
    if (isOwn(request, memberId) || isOf(request.site) || commands.some((one) => isOf(siteOf(one)))) return found;
    throw new RelayError("not-found", { what: "A request with this id" });
  }

  private async wordFilter(words: string): Promise<LogFilter["words"]> {
    const channels = this.channelsWith(words);
    const open = channels.flatMap((channel) => this.openRequests.idsOn(channel));
    const elsewhere = await this.elsewhere.idsOn(channels);
    return { text: words, channels, open: [...open, ...elsewhere], since: this.dayAgo() };
  }

  /** Of the reader's sites: of others they learn neither that there is one, nor that two share a name. */
  private channelNamed(name: string, { sites }: Reader): ChannelId {
    const resolution = resolveName(this.board.snapshot, name, sites);
    if ("found" in resolution) return resolution.found.id;
    throw new RelayError("not-found", { what: `Channel “${name}”` });
  }

  private channelsWith(words: string): ChannelId[] {
    const wanted = normalName(words);
    return this.searchTexts().flatMap(({ id, text }) => (text.includes(wanted) ? id : []));
  }

  /** What each channel is found by: made once for each model. */
  private searchTexts(): readonly { id: ChannelId; text: string }[] {
    const { snapshot } = this.board;
    if (this.searched?.snapshot !== snapshot) {
      const texts = snapshot.channels.map(({ id, name, room, site, address }) => {
        const ways = [`${name} ${room.name} ${site.name}`, `${room.name} ${name}`, address];
        return { id, text: ways.map(normalName).join("\n") };
      });
      this.searched = { snapshot, texts };
    }
    return this.searched.texts;
  }

  private dayAgo(): string {
    return smallestIdAt(this.clock.now() - DAY_MS);
  }

  private async views(requests: readonly RequestRecord[]): Promise<RequestView[]> {
    const ids = requests.map((request) => request.id);
    const open = await this.openOf(ids);
    const ended = await findCommands(this.pool, ids);
    const byRequest = new Map<string, CommandRecord[]>(ids.map((id) => [id, []]));
    for (const command of merge(open, ended)) byRequest.get(command.requestId)?.push(command);
    return requests.map((request) => requestView(request, byRequest.get(request.id) ?? [], this.board));
  }

  private async read(id: string): Promise<{ request: RequestRecord; commands: CommandRecord[] }> {
    // Open first: one that ends between the two reads is then found twice instead of not at all.
    const open = await this.openOf([id]);
    const [requests, ended] = await Promise.all([findRequests(this.pool, [id]), findCommands(this.pool, [id])]);
    const [request] = requests;
    if (!request) throw new RelayError("not-found", { what: "A request with this id" });
    return { request, commands: merge(open, ended) };
  }

  private async openOf(ids: readonly string[]): Promise<CommandRecord[]> {
    const here = ids.flatMap((id) => {
      const open = this.openRequests.get(id);
      return open ? recordsOf(open) : [];
    });
    return [...here, ...(await this.elsewhere.commandsOf(ids))];
  }

  private deviceOf(record: CommandRecord) {
    const entry = this.board.snapshot.byId.get(record.channelId);
    if (!entry) return { name: "removed device", presence: "not-watched" as const };
    const up = this.board.presenceOf(entry.device.address)?.up ?? null;
    return { name: entry.device.name, presence: devicePresence(up, presenceSource(entry)) };
  }
}

/** What a sender calls itself does not count. */
function isOwn(request: RequestRecord, memberId: number | null): boolean {
  return memberId !== null && request.requester === "member" && request.memberId === memberId;
}

/** The journal's word on a command is the last. */
function merge(open: readonly CommandRecord[], ended: readonly CommandRecord[]): CommandRecord[] {
  const known = new Set(ended.map((command) => command.id));
  return [...ended, ...open.filter((command) => !known.has(command.id))];
}
