/** A device that takes typed lines over TCP: one connection, one command at a time, its answer the next line that fits. */
import { connect, type Socket } from "node:net";
import { payloadForm } from "@bold-relay/api/schema";
import {
  bindCodec,
  type CommandId,
  decodeText,
  encodeText,
  isGarbled,
  LineSplitter,
  type PayloadForm,
  type Value,
} from "@bold-relay/core";
import Joi from "joi";
import { bindingsOf, deviceBinding } from "../bindings.ts";
import type { DescribedDevice } from "../described-device.ts";
import { CODES, type DeviceDriver, type FarAnswer, type FarEvents, type FarOrder, quoted } from "../device-driver.ts";
import { Serial } from "../serial.ts";
import type { ReachKind } from "./kind.ts";
import { ms } from "./setting.ts";

/** Typed lines over TCP: one connection, one command at a time. */
export interface LinesReach {
  readonly by: "lines";
  readonly host: string;
  readonly port: number;
  /** How commands, answers and reports are written: `do`, `done` and `is` of a text form. */
  readonly form: PayloadForm;
  /** What ends our lines. Default "crlf". */
  readonly ending?: "cr" | "lf" | "crlf";
  /** The device is ready once this has come. */
  readonly greeting?: string;
  /** Stands before the device's lines, or alone when it waits. */
  readonly prompt?: string;
  /** Answers that begin like this say no. Default ERR. */
  readonly refusals?: readonly string[];
  /** Asks what a channel is; may hold {index} and {channel}. */
  readonly query?: { readonly line: string; readonly everyMs?: number };
  /** The device closes a line that is quiet: that is no sign of trouble, and a new one is opened when it is needed. */
  readonly closesWhenQuiet?: boolean;
  /** Default 2000. */
  readonly timeoutMs?: number;
}

const schema: Joi.ObjectSchema<LinesReach> = Joi.object({
  by: Joi.valid("lines").required(),
  host: Joi.string().hostname().required(),
  port: Joi.number().port().required(),
  form: payloadForm.required(),
  ending: Joi.valid("cr", "lf", "crlf"),
  greeting: Joi.string().max(200),
  prompt: Joi.string().max(40),
  query: Joi.object({ line: Joi.string().max(200).required(), everyMs: ms(100, 3_600_000) }),
  refusals: Joi.array().items(Joi.string().min(1).max(40)).max(20),
  closesWhenQuiet: Joi.boolean(),
  timeoutMs: ms(50, 60_000),
});

export const linesReach: ReachKind<LinesReach> = {
  about: "typed lines over TCP, one command at a time",
  schema,
  open: (device, reach) => new LineDevice(device, reach),
};

const TIMEOUT_MS = 2_000;
const EVERY_MS = 5_000;
const ENDINGS = { cr: "\r", lf: "\n", crlf: "\r\n" } as const;
/** Between two tries to connect, at first and at most. */
const AGAIN_MS = 250;
const AGAIN_MOST_MS = 15_000;
const LONGEST_LINE = 1_024;

/** What waits for a line: it takes what it can use, and leaves the rest. */
type Listener = (line: string) => boolean;

class LineDevice implements DeviceDriver {
  private readonly device: DescribedDevice;
  private readonly reach: LinesReach;
  private readonly timeoutMs: number;
  private readonly serial = new Serial();
  private events: FarEvents | null = null;
  private socket: Socket | null = null;
  /** Resolves when the device takes commands; a new one for each connection. */
  private opening: Promise<void> | null = null;
  private listener: Listener | null = null;
  private onLost: ((why: string) => void) | null = null;
  private again: NodeJS.Timeout | null = null;
  private againMs = AGAIN_MS;
  private looking: NodeJS.Timeout | null = null;
  private stopped = false;

  constructor(device: DescribedDevice, reach: LinesReach) {
    this.device = device;
    this.reach = reach;
    this.timeoutMs = reach.timeoutMs ?? TIMEOUT_MS;
  }

  async start(events: FarEvents): Promise<void> {
    this.events = events;
    this.keepOpen();
    if (this.reach.query) this.lookLater();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.again) clearTimeout(this.again);
    if (this.looking) clearTimeout(this.looking);
    this.socket?.destroy();
  }

  async tell(order: FarOrder): Promise<FarAnswer> {
    if (this.serial.isFull) return { ok: false, code: CODES.busy, why: "too many commands wait for it already" };
    return this.serial.run(() => this.command(order));
  }

  private async command({ id, binding: known, to }: FarOrder): Promise<FarAnswer> {
    try {
      await this.open();
    } catch (error) {
      return { ok: false, code: CODES.linkDown, why: (error as Error).message };
    }
    const binding = deviceBinding(this.device, known);
    const codec = bindCodec(this.reach.form, binding);
    const line = decodeText(codec.encode(id as CommandId, to, null));
    let last: string | null = null;
    return this.exchange<FarAnswer>(line, (heard) => {
      if (this.isRefusal(heard)) return { ok: false, code: CODES.refused, why: `it said ${quoted(heard)}` };
      const bytes = encodeText(heard);
      const done = codec.decodeDone(bytes);
      const is = codec.decodeIs(bytes);
      if (done && !isGarbled(done)) {
        if (done.ok !== true) return { ok: false, code: done.code ?? CODES.refused, why: `it said ${quoted(heard)}` };
        return { ok: true, is: is && !isGarbled(is) ? is.value : null };
      }
      if (is && !isGarbled(is) && is.value === to) return { ok: true, is: is.value };
      last = heard;
      return null;
    }).catch(
      (error: Error): FarAnswer => ({
        ok: null,
        why: last === null ? error.message : `it said only ${quoted(last)}`,
      }),
    );
  }

  private isRefusal(heard: string): boolean {
    const { refusals = ["ERR"] } = this.reach;
    return refusals.some((start) => heard.toLowerCase().startsWith(start.toLowerCase()));
  }

  /** Writes a line and waits until something comes back that answers it. @throws Error when nothing does */
  private exchange<Answer>(line: string, understand: (heard: string) => Answer | null): Promise<Answer> {
    return new Promise((resolve, reject) => {
      const finish = (work: () => void) => {
        clearTimeout(timer);
        this.listener = null;
        this.onLost = null;
        work();
      };
      const timer = setTimeout(
        () => finish(() => reject(new Error(`no answer within ${this.timeoutMs} ms`))),
        this.timeoutMs,
      );
      this.onLost = (why) => finish(() => reject(new Error(why)));
      this.listener = (heard) => {
        // Some repeat what they were told before they answer.
        if (heard === line) return true;
        const answer = understand(heard);
        if (answer === null) return false;
        finish(() => resolve(answer));
        return true;
      };
      this.socket?.write(`${line}${ENDINGS[this.reach.ending ?? "crlf"]}`);
    });
  }

  private lookLater(): void {
    this.looking = setTimeout(
      () => void this.look().then(() => this.lookLater()),
      this.reach.query?.everyMs ?? EVERY_MS,
    );
  }

  /** Asks what each channel is; what is not answered is asked again next time. */
  private async look(): Promise<void> {
    const { query, form } = this.reach;
    if (!query) return;
    for (const known of bindingsOf(this.device)) {
      if (this.stopped || !this.socket) return;
      const binding = deviceBinding(this.device, known);
      const codec = bindCodec(form, binding);
      const line = query.line.replaceAll("{index}", String(binding.index)).replaceAll("{channel}", binding.slug);
      await this.serial
        .run(() =>
          this.exchange<Value>(line, (heard) => {
            const is = codec.decodeIs(encodeText(heard));
            return is && !isGarbled(is) ? is.value : null;
          }),
        )
        .then((value) => this.events?.observed(known, value, null))
        .catch(() => {});
    }
  }

  private keepOpen(): void {
    if (this.stopped || this.reach.closesWhenQuiet) return this.countAsReachable();
    this.open().catch(() => {
      this.again = setTimeout(() => this.keepOpen(), this.againMs);
      this.againMs = Math.min(this.againMs * 2, AGAIN_MOST_MS);
    });
  }

  private countAsReachable(): void {
    if (!this.stopped) this.open().catch(() => {});
  }

  /** @throws Error that says why the device cannot be reached */
  private open(): Promise<void> {
    this.opening ??= this.connect().catch((error: unknown) => {
      this.opening = null;
      this.events?.reachable(false);
      throw error;
    });
    return this.opening;
  }

  private connect(): Promise<void> {
    const { host, port, greeting } = this.reach;
    const place = `${host}:${port}`;
    const splitter = new LineSplitter(LONGEST_LINE);
    return new Promise((resolve, reject) => {
      const socket = connect({ host, port, noDelay: true });
      const ready = () => {
        clearTimeout(timer);
        this.socket = socket;
        this.againMs = AGAIN_MS;
        this.events?.reachable(true);
        resolve();
      };
      const timer = setTimeout(() => {
        const what = greeting === undefined || socket.connecting ? "cannot be reached" : "did not greet";
        reject(new Error(`${place} ${what} within ${this.timeoutMs} ms`));
        socket.destroy();
      }, this.timeoutMs);
      let greeted = greeting === undefined;
      socket.on("connect", () => {
        if (greeted) ready();
      });
      socket.on("data", (piece: Buffer) => {
        const lines = splitter.push(piece).flatMap((line) => ("text" in line ? this.withoutPrompt(line.text) : []));
        if (!greeted && greeting !== undefined) {
          greeted = [...lines, splitter.rest].some((line) => line.includes(greeting));
          if (greeted) ready();
          return;
        }
        for (const line of lines) if (line !== "") this.hear(line);
      });
      socket.on("error", (error: NodeJS.ErrnoException) => {
        clearTimeout(timer);
        reject(new Error(`${place} cannot be reached (${error.code ?? error.message})`));
      });
      socket.on("close", () => {
        clearTimeout(timer);
        reject(new Error(`${place} closed the line`));
        if (this.socket === socket) this.lose(`${place} closed the line`);
      });
    });
  }

  private withoutPrompt(line: string): string {
    const { prompt } = this.reach;
    let rest = line;
    // A prompt ends in no line end, so the device's next line stands right behind it, or behind several.
    while (prompt !== undefined && prompt !== "" && rest.startsWith(prompt)) rest = rest.slice(prompt.length);
    return rest.trim();
  }

  private hear(line: string): void {
    if (this.listener?.(line)) return;
    const bytes = encodeText(line);
    for (const known of bindingsOf(this.device)) {
      const is = bindCodec(this.reach.form, deviceBinding(this.device, known)).decodeIs(bytes);
      if (is && !isGarbled(is)) this.events?.observed(known, is.value, is.by === "command" ? null : is.by);
    }
  }

  private lose(why: string): void {
    this.socket = null;
    this.opening = null;
    this.onLost?.(why);
    if (this.stopped || this.reach.closesWhenQuiet) return;
    this.events?.reachable(false);
    this.again = setTimeout(() => this.keepOpen(), this.againMs);
  }
}
