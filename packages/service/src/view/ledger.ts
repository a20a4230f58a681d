/** Requests as they stand: the journal's part, with what is open in memory laid over it. */
import type { RequestView, TraceView } from "@bold-relay/api";
import { RelayError } from "@bold-relay/core";
import type { Board } from "../pipeline/board.ts";
import type { RequestBook } from "../pipeline/request-book.ts";
import { type CommandRecord, findCommands, findRequests, type RequestRecord } from "../store/find-requests.ts";
import type { Pool } from "../store/pool.ts";
import { commandView, hopViews } from "./command-view.ts";
import { requestView } from "./request-view.ts";

export class Ledger {
  private readonly pool: Pool;
  private readonly board: Board;
  private readonly book: RequestBook;

  constructor(pool: Pool, board: Board, book: RequestBook) {
    this.pool = pool;
    this.board = board;
    this.book = book;
  }

  /** @throws RelayError not-found */
  async view(id: string): Promise<RequestView> {
    const { request, commands } = await this.read(id);
    return requestView(request, commands, this.board);
  }

  /** @throws RelayError not-found */
  async trace(id: string): Promise<TraceView> {
    const { request, commands } = await this.read(id);
    return {
      ...requestView(request, commands, this.board),
      traces: commands.map((record) => ({
        command: commandView(record, this.board),
        device: this.deviceOf(record),
        hops: hopViews(record),
      })),
    };
  }

  async views(requests: readonly RequestRecord[]): Promise<RequestView[]> {
    const ids = requests.map((request) => request.id);
    const open = this.openOf(ids);
    const ended = await findCommands(this.pool, ids);
    return requests.map((request) => {
      const mine = merge(open, ended).filter((command) => command.requestId === request.id);
      return requestView(request, mine, this.board);
    });
  }

  private async read(id: string): Promise<{ request: RequestRecord; commands: CommandRecord[] }> {
    // Open first: one that ends between the two reads is then found twice instead of not at all.
    const open = this.openOf([id]);
    const [requests, ended] = await Promise.all([findRequests(this.pool, [id]), findCommands(this.pool, [id])]);
    const [request] = requests;
    if (!request) throw new RelayError("not-found", { what: "A request with this id" });
    return { request, commands: merge(open, ended) };
  }

  private openOf(ids: readonly string[]): CommandRecord[] {
    return ids.flatMap((id) => [...(this.book.get(id)?.commands.values() ?? [])]);
  }

  private deviceOf(record: CommandRecord) {
    const entry = this.board.snapshot.byId.get(record.channelId);
    if (!entry) return { name: "removed device", present: null };
    return { name: entry.device.name, present: this.board.presenceOf(entry.device.address)?.up ?? null };
  }
}

/** The journal's word on a command is the last. */
function merge(open: readonly CommandRecord[], ended: readonly CommandRecord[]): CommandRecord[] {
  const known = new Set(ended.map((command) => command.id));
  return [...ended, ...open.filter((command) => !known.has(command.id))];
}
