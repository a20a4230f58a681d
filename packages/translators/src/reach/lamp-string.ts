/**
 * A string of lamps on a serial line: one frame has the colour of each lamp. What the frame looks like is data, "A5 {count} {lamps}
 * {sum}": fixed bytes in hexadecimal, {count} how many lamps (two bytes, high one first), {lamps} three bytes each, {sum} the low
 * byte of the sum of all before it. Colours repeat along the string.
 */
import type { Duplex } from "node:stream";
import { colourParts, coloursIn, type Value } from "@bold-relay/core";
import Joi from "joi";
import { CODES, type DeviceDriver, type FarAnswer, type FarEvents, type FarOrder, quoted } from "../device-driver.ts";
import { openPort } from "../port.ts";
import { Serial } from "../serial.ts";
import type { ReachKind } from "./kind.ts";
import { ms, port } from "./setting.ts";

/** A string of lamps on a serial line of its own: one channel of the kind lamps. */
export interface LampStringReach {
  readonly by: "lamps";
  /** A tty, like /dev/ttyUSB0, or tcp://host:port. */
  readonly port: string;
  /** How many there are, 1 to 2000. */
  readonly lamps: number;
  /** What is written, like "A5 {count} {lamps} {sum}"; see `lamp-string.ts`. */
  readonly frame: string;
  /** In which order a lamp takes its colours. Default "rgb". */
  readonly order?: "rgb" | "rbg" | "grb" | "gbr" | "brg" | "bgr";
  /** Whether it answers a frame at all. Default true. */
  readonly answers?: boolean;
  /** What it answers when it has shown a frame, in hexadecimal; anything else says no. Default 06. */
  readonly ack?: string;
  /** Default 1000. */
  readonly timeoutMs?: number;
}

const schema: Joi.ObjectSchema<LampStringReach> = Joi.object({
  by: Joi.valid("lamps").required(),
  port,
  lamps: Joi.number().integer().min(1).max(2_000).required(),
  frame: Joi.string()
    .max(200)
    .pattern(
      /^(?:[0-9A-Fa-f]{2}|\{count\}|\{sum\})?(?: ?(?:[0-9A-Fa-f]{2}|\{count\}|\{sum\}))* ?\{lamps\}(?: (?:[0-9A-Fa-f]{2}|\{sum\}))*$/,
    )
    .messages({
      "string.pattern.base":
        "{{#label}} holds bytes like A5, \\{count}, \\{lamps} once and \\{sum}, with spaces between",
    })
    .required(),
  order: Joi.valid("rgb", "rbg", "grb", "gbr", "brg", "bgr"),
  answers: Joi.boolean(),
  ack: Joi.string().pattern(/^[0-9A-Fa-f]{2}(?: ?[0-9A-Fa-f]{2}){0,7}$/),
  timeoutMs: ms(50, 60_000),
});

export const lampsReach: ReachKind<LampStringReach> = {
  about: "a string of lamps on a serial line of its own",
  schema,
  open: (_device, reach) => new LampString(reach),
};

const TIMEOUT_MS = 1_000;
const AGAIN_MS = 1_000;
const ACK = "06";

class LampString implements DeviceDriver {
  private readonly reach: LampStringReach;
  private readonly serial = new Serial();
  private line: Duplex | null = null;
  private events: FarEvents | null = null;
  private again: NodeJS.Timeout | null = null;
  private heard: ((piece: Buffer) => void) | null = null;
  private stopped = false;

  constructor(reach: LampStringReach) {
    this.reach = reach;
  }

  async start(events: FarEvents): Promise<void> {
    this.events = events;
    this.open();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    if (this.again) clearTimeout(this.again);
    this.line?.destroy();
  }

  async tell({ to }: FarOrder): Promise<FarAnswer> {
    if (this.serial.isFull) return { ok: false, code: CODES.busy, why: "too much waits for this string already" };
    const colours = coloursIn(to);
    if (colours.length === 0) return { ok: false, code: CODES.cannot, why: `a string of lamps has no “${to}”` };
    return this.serial.run(() => this.show(frameOf(this.reach, to)));
  }

  private async show(frame: Buffer): Promise<FarAnswer> {
    const { port, answers = true, timeoutMs = TIMEOUT_MS } = this.reach;
    const { line } = this;
    if (!line) return { ok: false, code: CODES.linkDown, why: `${port} cannot be opened` };
    if (!answers) {
      line.write(frame);
      return { ok: null, why: "it was written to the line, and this string never answers" };
    }
    const answer = await new Promise<Buffer | null>((resolve) => {
      const timer = setTimeout(() => resolve(null), timeoutMs);
      this.heard = (piece) => {
        clearTimeout(timer);
        resolve(piece);
      };
      line.write(frame);
    });
    this.heard = null;
    if (answer === null) return { ok: null, why: `it did not answer within ${timeoutMs} ms` };
    const said = answer.toString("hex").toUpperCase();
    if (said === (this.reach.ack ?? ACK).replaceAll(" ", "").toUpperCase()) return { ok: true, is: null };
    return { ok: false, code: CODES.refused, why: `it answered ${quoted(said)}` };
  }

  private open(): void {
    openPort(this.reach.port).then(
      (line) => this.opened(line),
      () => this.openLater(),
    );
  }

  private opened(line: Duplex): void {
    if (this.stopped) return void line.destroy();
    this.line = line;
    line.on("data", (piece: Buffer) => this.heard?.(piece));
    line.on("error", () => {});
    line.on("close", () => {
      this.line = null;
      this.events?.reachable(false);
      this.openLater();
    });
    this.events?.reachable(true);
  }

  private openLater(): void {
    if (!this.stopped) this.again = setTimeout(() => this.open(), AGAIN_MS);
  }
}

/** @example frameOf({ frame: "A5 {count} {lamps} {sum}", lamps: 2, … }, "#ff0000") // → A5 00 02 ff 00 00 ff 00 00 A5 */
function frameOf({ frame, lamps, order = "rgb" }: LampStringReach, to: Value): Buffer {
  const colours = coloursIn(to).map(colourParts);
  const bytes: number[] = [];
  for (const part of frame.split(" ")) {
    if (part === "{count}") bytes.push(lamps >> 8, lamps & 0xff);
    else if (part === "{sum}") bytes.push(bytes.reduce((sum, byte) => (sum + byte) & 0xff, 0));
    else if (part === "{lamps}") {
      for (let lamp = 0; lamp < lamps; lamp += 1) {
        const [red = 0, green = 0, blue = 0] = colours[lamp % colours.length] ?? [];
        const byName = { r: red, g: green, b: blue };
        for (const name of order) bytes.push(byName[name as "r" | "g" | "b"]);
      }
    } else bytes.push(Number.parseInt(part, 16));
  }
  return Buffer.from(bytes);
}
