/**
 * A spreadsheet as a remote: a CSV file (RFC 4180) at an address, looked at again and again. In `rows` each row names a
 * channel and what is wanted of it; in `cell` one row has an id and words. What stood there at the start is only noted; after
 * that each command acts once, however often it is read. What the channels are is written back, if an address is given.
 */

import { NO_ARRIVAL, newOrders, RelayError, type SheetOrder, sheetOrders } from "@bold-relay/core";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import type { Calls } from "../../platform/calls.ts";
import type { Log } from "../../platform/log.ts";
import { requireMethod, restOf } from "../http-words.ts";
import type { HttpKind, Inlet, OwnKind } from "../inlet.ts";
import type { InletKindWay } from "../kind.ts";

interface Settings {
  readonly url: string;
  readonly everyS?: number;
  readonly form?: "rows" | "cell";
  readonly writeUrl?: string;
}

const EVERY_S = 10;
const WAIT_MS = 5_000;

class SheetInlet implements OwnKind {
  health = { up: false, trouble: "It has not been read so far." as string | null };
  private readonly inlet: Inlet;
  private readonly calls: Calls;
  private readonly log: Log;
  private readonly settings: Settings;
  private seen: ReadonlyMap<string, string> | null = null;
  private etag: string | null = null;
  private written = "";
  private timer: NodeJS.Timeout | null = null;
  private stopped = false;
  private looking: Promise<void> | null = null;

  constructor(inlet: Inlet, calls: Calls, log: Log) {
    this.inlet = inlet;
    this.calls = calls;
    this.log = log;
    this.settings = inlet.description.settings as unknown as Settings;
  }

  get address(): string {
    return this.settings.url;
  }

  start(): void {
    void this.look();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.timer) clearTimeout(this.timer);
  }

  /** Looks at once. @returns what came of it, in words */
  async lookNow(): Promise<string> {
    if (this.timer) clearTimeout(this.timer);
    const first = this.seen === null;
    await this.look();
    if (this.health.trouble !== null) return this.health.trouble;
    if (first) return "It was read for the first time: what stands there is only noted.";
    return `It was read. It has ${this.seen?.size ?? 0} orders; new ones were carried out.`;
  }

  private look(): Promise<void> {
    // Two looks at once would carry out the same order twice.
    this.looking ??= this.lookOnce().finally(() => {
      this.looking = null;
    });
    return this.looking;
  }

  private async lookOnce(): Promise<void> {
    try {
      await this.read();
      await this.writeBack();
      this.health = { up: true, trouble: null };
    } catch (error) {
      const trouble = (error as Error).message;
      if (this.health.trouble !== trouble) this.log.warn({ err: error, inlet: this.inlet.description.slug }, "a sheet");
      this.health = { up: false, trouble };
    }
    if (!this.stopped)
      this.timer = setTimeout(() => void this.look(), (this.settings.everyS ?? EVERY_S) * 1_000).unref();
  }

  private async read(): Promise<void> {
    const headers: Record<string, string> = this.etag === null ? {} : { "if-none-match": this.etag };
    const { status, body, etag } = await this.calls.fetch(this.settings.url, { headers });
    if (status === 304) return;
    if (status !== 200) throw new Error(`The sheet answered ${status}.`);
    const rows = parse(body, {
      columns: (names: string[]) => names.map((name) => name.trim().toLowerCase()),
      bom: true,
      trim: true,
      skip_empty_lines: true,
      relax_column_count: true,
    });
    const orders = sheetOrders(rows as Record<string, string>[], this.settings.form ?? "rows");
    if ("wrong" in orders) throw new Error(`The sheet: ${orders.wrong}`);
    const { fresh, seen } = newOrders(this.seen, orders.orders);
    for (const order of fresh) await this.act(order);
    // Only now: what could not be taken is new again next time.
    this.seen = seen;
    this.etag = etag;
  }

  private async act({ key, phrase, mark }: SheetOrder): Promise<void> {
    try {
      const arrival = { ...NO_ARRIVAL, text: phrase, sender: null };
      await this.inlet.hear(arrival, { keyId: null, repeatKey: null, waitMs: WAIT_MS });
    } catch (error) {
      if (!(error instanceof RelayError) || error.kind.status >= 500) throw error;
      this.log.info(
        { inlet: this.inlet.description.slug, key, mark, code: error.code },
        "a row of a sheet was refused",
      );
    }
  }

  private async writeBack(): Promise<void> {
    const { writeUrl } = this.settings;
    if (writeUrl === undefined) return;
    const body = statesCsv(this.inlet);
    if (body === this.written) return;
    const { status } = await this.calls.fetch(writeUrl, {
      method: "PUT",
      body,
      headers: { "content-type": "text/csv; charset=utf-8" },
    });
    if (status >= 300) throw new Error(`What the channels are was not taken: ${status}.`);
    this.written = body;
  }
}

/** What the channels of an inlet are, for a spreadsheet to read. A cell that begins like a formula is made plain text. */
function statesCsv(inlet: Inlet): string {
  return stringify([...inlet.states()], {
    header: true,
    columns: ["address", "name", "room", "is", "agreement", "stale", "asOf"],
    escape_formulas: true,
  });
}

/** What the channels are, as a file to read: GET /in/<inlet>/states.csv with the inlet's key. */
const sheetStates: HttpKind = {
  async serve(req, res, inlet, { keyOf }) {
    await keyOf(req);
    requireMethod(req, res, "GET");
    inlet.admit();
    if (restOf(req, inlet.description.slug) !== "states.csv")
      throw new RelayError("not-found", { what: "Anything but states.csv here" });
    res.setHeader("content-type", "text/csv; charset=utf-8");
    res.end(statesCsv(inlet));
  },
};

export const sheetWay: InletKindWay = {
  http: () => sheetStates,
  open: (inlet, { calls, log }) => new SheetInlet(inlet, calls, log),
  async trial({ own }) {
    if (!(own instanceof SheetInlet)) throw new RelayError("bad-request", { why: "A paused sheet is not looked at" });
    const sent = `GET ${own.address}`;
    return [{ sent, got: await own.lookNow() }];
  },
};
