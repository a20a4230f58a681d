/** A device with addresses: one HTTP call for each command, and one to ask what a channel is. */

import { payloadForm } from "@bold-relay/api/schema";
import {
  bindCodec,
  type ChannelBinding,
  type CommandId,
  decodeText,
  encodeText,
  isGarbled,
  type PayloadForm,
  type Value,
} from "@bold-relay/core";
import Joi from "joi";
import { bindingsOf, deviceBinding } from "../bindings.ts";
import type { DescribedDevice } from "../described-device.ts";
import { CODES, type DeviceDriver, type FarAnswer, type FarEvents, type FarOrder, quoted } from "../device-driver.ts";
import { Serial } from "../serial.ts";
import type { ReachKind } from "./kind.ts";
import { method, ms, path } from "./setting.ts";

/** Addresses of an HTTP device, one call for each command. */
export interface HttpReach {
  readonly by: "http";
  /** http:// or https://; nothing else is ever called, and redirects are not followed. */
  readonly url: string;
  /** Paths may hold {index}, {channel} and {value}. */
  readonly do: { readonly method: "GET" | "POST" | "PUT"; readonly path: string; readonly body?: boolean };
  /** Called once for each channel before its first command, and again whenever the device was away. */
  readonly mode?: { readonly method: "GET" | "POST" | "PUT"; readonly path: string };
  /** Where the device tells what a channel is. */
  readonly is?: { readonly path: string; readonly everyMs?: number };
  /** How bodies and {value} are written and read. Default bare words. */
  readonly form?: PayloadForm;
  /** Default 3000. */
  readonly timeoutMs?: number;
}

const schema: Joi.ObjectSchema<HttpReach> = Joi.object({
  by: Joi.valid("http").required(),
  url: Joi.string()
    .uri({ scheme: ["http", "https"] })
    .required(),
  do: Joi.object({ method, path: path.required(), body: Joi.boolean() }).required(),
  mode: Joi.object({ method, path: path.required() }),
  is: Joi.object({ path: path.required(), everyMs: ms(100, 3_600_000) }),
  form: payloadForm,
  timeoutMs: ms(50, 60_000),
});

export const httpReach: ReachKind<HttpReach> = {
  about: "an HTTP device, one call for each command",
  schema,
  open: (device, reach) => new HttpDevice(device, reach),
};

const TIMEOUT_MS = 3_000;
const EVERY_MS = 5_000;
/** Longest answer that is read, bytes. */
const MOST_BYTES = 65_536;

/** It never came so far that the device could have heard it. */
const NOT_CONNECTED = new Set([
  "ECONNREFUSED",
  "EHOSTUNREACH",
  "ENETUNREACH",
  "EHOSTDOWN",
  "ENOTFOUND",
  "EAI_AGAIN",
  "UND_ERR_CONNECT_TIMEOUT",
]);

/** These say that nothing was done; another 5xx may come after the deed. */
const NOT_DONE = new Set([501, 503]);

type Call =
  | { readonly status: number; readonly body: string }
  | { readonly trouble: "not-connected" | "no-answer"; readonly why: string };

class HttpDevice implements DeviceDriver {
  private readonly device: DescribedDevice;
  private readonly reach: HttpReach;
  private readonly form: PayloadForm;
  private readonly serial = new Serial();
  private readonly inMode = new Set<string>();
  private readonly stopping = new AbortController();
  private events: FarEvents | null = null;
  private timer: NodeJS.Timeout | null = null;

  constructor(device: DescribedDevice, reach: HttpReach) {
    this.device = device;
    this.reach = reach;
    this.form = reach.form ?? "word";
  }

  async start(events: FarEvents): Promise<void> {
    this.events = events;
    // A silent device must not keep the others of the plan waiting.
    void this.look();
  }

  async stop(): Promise<void> {
    if (this.timer) clearTimeout(this.timer);
    this.stopping.abort();
  }

  async tell(order: FarOrder): Promise<FarAnswer> {
    if (this.serial.isFull) return { ok: false, code: CODES.busy, why: "too many commands wait for it already" };
    return this.serial.run(() => this.command(order));
  }

  private async command({ id, binding: known, to }: FarOrder): Promise<FarAnswer> {
    const binding = deviceBinding(this.device, known);
    const first = await this.once(id, binding, to);
    // A board that has lost its power has lost its modes as well, and may say so with any refusal.
    if (first.ok !== false || first.code === CODES.linkDown || !this.reach.mode) return first;
    this.inMode.delete(binding.slug);
    return this.once(id, binding, to);
  }

  private async once(id: string, binding: ChannelBinding, to: Value): Promise<FarAnswer> {
    const mode = await this.setMode(binding);
    if (mode) return mode;
    const { method, path, body = false } = this.reach.do;
    const codec = bindCodec(this.form, binding);
    const payload = codec.encode(id as CommandId, to, null);
    const address = this.fill(path, binding, payload);
    const call = await this.call(method, address, body ? decodeText(payload) : null);
    if ("trouble" in call) return this.troubled(call);
    if (call.status >= 500 && !NOT_DONE.has(call.status)) return { ok: null, why: `it answered ${call.status}` };
    if (call.status >= 300)
      return { ok: false, code: call.status, why: `it answered ${call.status} to ${method} ${address}` };
    this.events?.reachable(true);
    const is = codec.decodeIs(encodeText(call.body));
    return { ok: true, is: is === null || isGarbled(is) ? null : is.value };
  }

  /** @returns what went wrong; null when the channel is in its mode */
  private async setMode(binding: ChannelBinding): Promise<FarAnswer | null> {
    const { mode } = this.reach;
    if (!mode || this.inMode.has(binding.slug)) return null;
    const call = await this.call(mode.method, this.fill(mode.path, binding, new Uint8Array()), null);
    if ("trouble" in call) {
      const { why } = call;
      this.events?.reachable(false);
      // Setting a mode switches nothing: whatever became of it, the command itself was not sent.
      return { ok: false, code: CODES.linkDown, why };
    }
    if (call.status >= 300) return { ok: false, code: call.status, why: `it would not set its mode: ${call.status}` };
    this.inMode.add(binding.slug);
    return null;
  }

  private troubled({ trouble, why }: Extract<Call, { trouble: string }>): FarAnswer {
    if (trouble === "no-answer") return { ok: null, why };
    this.inMode.clear();
    this.events?.reachable(false);
    return { ok: false, code: CODES.linkDown, why };
  }

  /** Asks what each channel is, over and over. */
  private async look(): Promise<void> {
    const { is } = this.reach;
    const bindings = is ? bindingsOf(this.device) : [];
    for (const binding of bindings) {
      if (this.stopping.signal.aborted) return;
      await this.serial.run(() => this.lookAt(binding, is?.path ?? "/"));
    }
    // Nothing to ask: it counts as reachable until a command shows otherwise.
    if (!is) this.events?.reachable(true);
    else if (!this.stopping.signal.aborted)
      this.timer = setTimeout(() => void this.look(), is.everyMs ?? EVERY_MS).unref();
  }

  private async lookAt(known: ChannelBinding, path: string): Promise<void> {
    const binding = deviceBinding(this.device, known);
    const call = await this.call("GET", this.fill(path, binding, new Uint8Array()), null);
    if (this.stopping.signal.aborted) return;
    if ("trouble" in call || call.status >= 300) {
      if ("trouble" in call && call.trouble === "not-connected") this.inMode.clear();
      this.events?.reachable(false);
      return;
    }
    this.events?.reachable(true);
    const is = bindCodec(this.form, binding).decodeIs(encodeText(call.body));
    if (is && !isGarbled(is)) this.events?.observed(known, is.value, is.by === "command" ? null : is.by);
  }

  private fill(path: string, { index, slug }: ChannelBinding, value: Uint8Array): string {
    const filling: Record<string, string> = { index: String(index), channel: slug, value: decodeText(value) };
    return path.replace(/\{(index|channel|value)\}/g, (_, hole: string) => encodeURIComponent(filling[hole] ?? ""));
  }

  private async call(method: string, path: string, body: string | null): Promise<Call> {
    const { timeoutMs = TIMEOUT_MS, url } = this.reach;
    const giveUp = new AbortController();
    const stop = () => giveUp.abort();
    const timer = setTimeout(() => giveUp.abort(new DOMException("too late", "TimeoutError")), timeoutMs);
    this.stopping.signal.addEventListener("abort", stop, { once: true });
    try {
      const type = this.form === "json" || (typeof this.form === "object" && this.form.form === "fields");
      const response = await fetch(new URL(path, url), {
        method,
        redirect: "manual",
        signal: giveUp.signal,
        headers: body === null ? {} : { "content-type": type ? "application/json" : "text/plain" },
        ...(body === null ? {} : { body }),
      });
      return { status: response.status, body: await bounded(response) };
    } catch (error) {
      return troubleOf(error, new URL(url).host, timeoutMs);
    } finally {
      clearTimeout(timer);
      this.stopping.signal.removeEventListener("abort", stop);
    }
  }
}

function troubleOf(error: unknown, host: string, timeoutMs: number): Call {
  const cause = (error as { cause?: { code?: string } }).cause?.code ?? "";
  if (NOT_CONNECTED.has(cause)) return { trouble: "not-connected", why: `${host} cannot be reached (${cause})` };
  const slow = (error as Error).name === "TimeoutError";
  const why = slow
    ? `no answer from ${host} within ${timeoutMs} ms`
    : `${host} broke off: ${quoted((error as Error).message)}`;
  return { trouble: "no-answer", why };
}

async function bounded(response: Response): Promise<string> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of response.body ?? []) {
    size += chunk.length;
    if (size > MOST_BYTES) throw new Error(`its answer is longer than ${MOST_BYTES} bytes`);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString("utf8");
}
