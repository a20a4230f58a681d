/**
 * Devices that call us: each asks for its next command, waiting for it if it can, and posts what came of it.
 *
 * GET /mailbox/<site>/<device>?wait=25 → 200 {"id","channel","index","to","for"?} or 204 · POST /mailbox/<site>/<device>
 * {"id","ok","code"?,"why"?,"is"?} or {"is":{"<channel>":value}}, with the device's key as bearer token.
 */
import { createHash, timingSafeEqual } from "node:crypto";
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { type ChannelBinding, isValue, type Value } from "@bold-relay/core";
import Joi from "joi";
import { bindingsOf, deviceBinding } from "../bindings.ts";
import type { DescribedDevice } from "../described-device.ts";
import { CODES, type DeviceDriver, type FarAnswer, type FarEvents, type FarOrder, quoted } from "../device-driver.ts";
import type { ReachKind, SharedReaches } from "./kind.ts";
import { ms } from "./setting.ts";

/** The device calls us: it asks for its next command and posts what came of it. */
export interface MailboxReach {
  readonly by: "mailbox";
  /** The key that the device shows, 16 to 200 characters. */
  readonly key: string;
  /** How long a command waits to be fetched and answered, ms. Default 10 000. */
  readonly timeoutMs?: number;
  /** Away when it has not asked for so long, ms. Default 60 000. */
  readonly silentAfterMs?: number;
}

const schema: Joi.ObjectSchema<MailboxReach> = Joi.object({
  by: Joi.valid("mailbox").required(),
  key: Joi.string()
    .pattern(/^[\x21-\x7e]{16,200}$/)
    .messages({ "string.pattern.base": "{{#label}} is 16 to 200 visible characters without spaces" })
    .required(),
  timeoutMs: ms(50, 600_000),
  silentAfterMs: ms(50, 3_600_000),
});

export const mailboxReach: ReachKind<MailboxReach> = {
  about: "a device that calls us for its next command and posts what came of it",
  schema,
  open(device, reach, shared) {
    const box = new MailboxDevice(device, reach);
    mailboxesOf(shared).add(`${device.site}/${device.device}`, box);
    return box;
  },
};

const TIMEOUT_MS = 10_000;
const SILENT_AFTER_MS = 60_000;
const MOST_WAIT_S = 60;
const MOST_BYTES = 4_096;

interface Letter {
  readonly order: FarOrder;
  readonly settle: (answer: FarAnswer) => void;
  fetched: boolean;
}

interface Result {
  readonly id?: string;
  readonly ok?: boolean;
  readonly code?: number;
  readonly why?: string;
  readonly is?: unknown;
}

const resultSchema = Joi.object<Result>({
  id: Joi.string().max(64),
  ok: Joi.boolean(),
  code: Joi.number().integer().min(0).max(65_535),
  why: Joi.string().max(120),
  is: Joi.any(),
})
  .and("id", "ok")
  .or("id", "is");

export class MailboxDevice implements DeviceDriver {
  private readonly device: DescribedDevice;
  private readonly reach: MailboxReach;
  /** The newest order of each channel that is not answered. */
  private readonly letters = new Map<string, Letter>();
  private events: FarEvents | null = null;
  private asking: ((letter: Letter | null) => void) | null = null;
  private silence: NodeJS.Timeout | null = null;

  constructor(device: DescribedDevice, reach: MailboxReach) {
    this.device = device;
    this.reach = reach;
  }

  async start(events: FarEvents): Promise<void> {
    this.events = events;
  }

  async stop(): Promise<void> {
    if (this.silence) clearTimeout(this.silence);
    this.asking?.(null);
    for (const { settle } of this.letters.values()) settle({ ok: null, why: "the translator was stopped" });
  }

  /** Whether this is the device's key; the time it takes tells nothing. */
  isKey(key: string): boolean {
    const digest = (text: string) => createHash("sha256").update(text).digest();
    return timingSafeEqual(digest(key), digest(this.reach.key));
  }

  tell(order: FarOrder): Promise<FarAnswer> {
    const { timeoutMs = TIMEOUT_MS } = this.reach;
    const slug = order.binding.slug;
    this.letters.get(slug)?.settle({ ok: null, why: "a newer command took its place" });
    return new Promise((resolve) => {
      const letter: Letter = {
        order,
        fetched: false,
        settle: (answer) => {
          clearTimeout(timer);
          if (this.letters.get(slug) === letter) this.letters.delete(slug);
          resolve(answer);
        },
      };
      const timer = setTimeout(() => letter.settle(this.late(letter, timeoutMs)), timeoutMs);
      this.letters.set(slug, letter);
      this.asking?.(letter);
    });
  }

  private late({ fetched }: Letter, timeoutMs: number): FarAnswer {
    if (fetched) return { ok: null, why: `it fetched the command, and said nothing within ${timeoutMs} ms` };
    return { ok: false, code: CODES.notFetched, why: `it did not ask for its next command within ${timeoutMs} ms` };
  }

  /** The device asks; null when nothing came in time. */
  async next(waitMs: number): Promise<object | null> {
    this.hears();
    const ready = [...this.letters.values()].find(({ fetched }) => !fetched) ?? null;
    const letter = ready ?? (waitMs > 0 ? await this.wait(waitMs) : null);
    if (!letter) return null;
    letter.fetched = true;
    const { id, binding: known, to, forMs } = letter.order;
    const binding = deviceBinding(this.device, known);
    const told = binding.reversed ? turned(to) : to;
    return { id, channel: binding.slug, index: binding.index, to: told, ...(forMs === null ? {} : { for: forMs }) };
  }

  /** Who asks again has given up the call before. */
  private wait(waitMs: number): Promise<Letter | null> {
    this.asking?.(null);
    return new Promise((resolve) => {
      const finish = (letter: Letter | null) => {
        clearTimeout(timer);
        if (this.asking === finish) this.asking = null;
        resolve(letter);
      };
      const timer = setTimeout(() => finish(null), waitMs);
      this.asking = finish;
    });
  }

  /** @returns what is wrong with it; null when it was understood */
  post({ id, ok, code, why, is }: Result): string | null {
    this.hears();
    if (id === undefined) return this.postStates(is);
    const letter = [...this.letters.values()].find(({ order }) => order.id === id);
    // Answered already, or too late: the device need not try again.
    if (!letter) return null;
    if (ok !== true) {
      const said = why === undefined ? "it said no" : `it said ${quoted(why)}`;
      letter.settle({ ok: false, code: code ?? CODES.refused, why: said });
      return null;
    }
    const value = is === undefined ? null : this.valueOf(letter.order.binding, is);
    if (value === undefined) return '"is" is no value of a channel';
    letter.settle({ ok: true, is: value });
    return null;
  }

  private postStates(is: unknown): string | null {
    if (typeof is !== "object" || is === null) return '"is" names what each channel is, like {"pump":"on"}';
    for (const binding of bindingsOf(this.device)) {
      if (!Object.hasOwn(is, binding.slug)) continue;
      const value = this.valueOf(binding, (is as Record<string, unknown>)[binding.slug]);
      if (value === undefined || value === null) return `"is" of ${binding.slug} is no value of a channel`;
      this.events?.observed(binding, value, null);
    }
    return null;
  }

  private valueOf(known: ChannelBinding, is: unknown): Value | null | undefined {
    if (is === null) return null;
    if (!isValue(is)) return undefined;
    return deviceBinding(this.device, known).reversed ? turned(is) : is;
  }

  private hears(): void {
    this.events?.reachable(true);
    if (this.silence) clearTimeout(this.silence);
    this.silence = setTimeout(() => this.events?.reachable(false), this.reach.silentAfterMs ?? SILENT_AFTER_MS).unref();
  }
}

/** Words only: a mailbox has no range of its own. */
function turned(value: Value): Value {
  if (value === "on") return "off";
  return value === "off" ? "on" : value;
}

/** The one server that all mailboxes of a plan share. */
export function mailboxesOf(shared: SharedReaches): MailboxServer {
  return shared.the("mailboxes", () => new MailboxServer());
}

/** The address at which devices with a mailbox call. */
export class MailboxServer {
  private readonly boxes = new Map<string, MailboxDevice>();
  private server: Server | null = null;

  add(name: string, box: MailboxDevice): void {
    this.boxes.set(name, box);
  }

  /** @returns the port that it listens on */
  async start({ host, port }: { host: string; port: number }): Promise<number> {
    const server = createServer({ requestTimeout: 10_000, headersTimeout: 5_000, maxHeaderSize: 8_192 }, (req, res) => {
      this.serve(req, res).catch((error: Error) => reply(res, 400, { error: error.message }));
    });
    server.maxConnections = 1_000;
    this.server = server;
    await new Promise<void>((resolve, reject) => server.once("error", reject).listen(port, host, resolve));
    return (server.address() as AddressInfo).port;
  }

  async stop(): Promise<void> {
    const server = this.server;
    if (!server) return;
    await new Promise<void>((resolve) => {
      server.close(() => resolve());
      server.closeAllConnections();
    });
  }

  private async serve(req: IncomingMessage, res: ServerResponse): Promise<void> {
    const url = new URL(req.url ?? "/", "http://mailbox");
    const name = /^\/mailbox\/([a-z0-9-]+\/[a-z0-9-]+)$/.exec(url.pathname)?.[1];
    const box = name === undefined ? undefined : this.boxes.get(name);
    const key = /^Bearer (\S+)$/i.exec(req.headers.authorization ?? "")?.[1] ?? "";
    // Who has no key learns no names either.
    if (!box?.isKey(key)) {
      req.resume();
      return reply(res, 401, { error: "The key is not that of this device." });
    }
    if (req.method === "GET") {
      const waitS = Math.min(Number(url.searchParams.get("wait") ?? 0) || 0, MOST_WAIT_S);
      const order = await box.next(Math.max(0, waitS) * 1_000);
      return order ? reply(res, 200, order) : reply(res, 204, null);
    }
    if (req.method !== "POST") return reply(res, 405, { error: "GET the next command, POST what came of it." });
    const { value, error } = resultSchema.validate(JSON.parse(await bodyOf(req)), { convert: false });
    if (error) return reply(res, 400, { error: error.message });
    const wrong = box.post(value);
    return wrong === null ? reply(res, 204, null) : reply(res, 400, { error: wrong });
  }
}

function reply(res: ServerResponse, status: number, body: object | null): void {
  if (res.headersSent || res.destroyed) return;
  res
    .writeHead(status, body ? { "content-type": "application/json" } : {})
    .end(body ? JSON.stringify(body) : undefined);
}

async function bodyOf(req: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  let size = 0;
  for await (const chunk of req as AsyncIterable<Buffer>) {
    size += chunk.length;
    if (size > MOST_BYTES) throw new Error(`The body is longer than ${MOST_BYTES} bytes.`);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString("utf8");
}
