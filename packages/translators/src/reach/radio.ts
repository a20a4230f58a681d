/**
 * Nodes behind a radio gateway on a serial line. Frames both ways are maps: `k` what it is, `n` the node, `s` a number
 * that the gateway repeats when it has taken the frame.
 *
 * To the gateway: do {n,s,c,v,f?}. From it: got {s} · done {n,s,ok,code?} · is {n,c,v,by?} · here {n,up}. `c` is the
 * channel's number on the node, `v` on, off, pulse, stop or a number, `f` how long, ms.
 */
import type { Duplex } from "node:stream";
import { type ChannelBinding, isValue, type Value } from "@bold-relay/core";
import Joi from "joi";
import { bindingsOf, deviceBinding } from "../bindings.ts";
import type { DescribedDevice } from "../described-device.ts";
import { CODES, type DeviceDriver, type FarAnswer, type FarEvents, type FarOrder } from "../device-driver.ts";
import { encodeFrame, FrameReader } from "../frame.ts";
import { openPort } from "../port.ts";
import type { ReachKind } from "./kind.ts";
import { ms, port } from "./setting.ts";

/** A node behind a radio gateway on a serial line. */
export interface RadioReach {
  readonly by: "radio";
  /** A tty, like /dev/ttyUSB0, or tcp://host:port. Devices that name the same share it. */
  readonly port: string;
  /** The node's address, 1 to 65 534. */
  readonly node: number;
  /** How long the node may take to answer, ms. Default 3000. */
  readonly timeoutMs?: number;
}

const schema: Joi.ObjectSchema<RadioReach> = Joi.object({
  by: Joi.valid("radio").required(),
  port,
  node: Joi.number().integer().min(1).max(65_534).required(),
  timeoutMs: ms(50, 60_000),
});

export const radioReach: ReachKind<RadioReach> = {
  about: "a node behind a radio gateway on a serial line",
  schema,
  open: (device, reach, shared) =>
    new RadioNode(
      device,
      reach,
      shared.the(`radio ${reach.port}`, () => new RadioLine(reach.port)),
    ),
};

const TIMEOUT_MS = 3_000;
/** How long the gateway may take to say that it has a frame, and how often it is sent before that is given up. */
const GOT_WITHIN_MS = 300;
const TRIES = 3;
const AGAIN_MS = 1_000;

const REPORTERS = ["hand", "timer", "boot"] as const;

interface Sent {
  readonly got: () => void;
  readonly done: (answer: FarAnswer) => void;
}

type Frame = Record<string, unknown>;

/** The serial line and the gateway at its end, shared by every node behind it. */
class RadioLine {
  private readonly port: string;
  private readonly nodes = new Map<number, RadioNode>();
  private readonly sent = new Map<number, Sent>();
  private line: Duplex | null = null;
  private again: NodeJS.Timeout | null = null;
  private lastNumber = Math.floor(Math.random() * 65_536);
  private stopped = false;

  constructor(port: string) {
    this.port = port;
  }

  add(address: number, node: RadioNode): void {
    if (this.nodes.has(address)) throw new Error(`Two devices have the radio node ${address} on ${this.port}.`);
    this.nodes.set(address, node);
  }

  /** Whichever node starts first opens it. */
  start(): void {
    if (this.line || this.again || this.stopped) return;
    this.open().catch(() => this.openLater());
  }

  /** Whichever node stops first closes it. */
  stop(): void {
    this.stopped = true;
    if (this.again) clearTimeout(this.again);
    this.line?.destroy();
  }

  /** Sends a frame until the gateway has it, then waits for the node's answer. */
  async ask(content: Frame, timeoutMs: number): Promise<FarAnswer> {
    const number = this.nextNumber();
    const frame = encodeFrame({ ...content, s: number });
    let settle: (answer: FarAnswer) => void = () => {};
    const answered = new Promise<FarAnswer>((resolve) => {
      settle = resolve;
    });
    let wasTaken = false;
    const taken = new Promise<void>((resolve) => {
      const got = () => {
        wasTaken = true;
        resolve();
      };
      // An answer proves that it was taken, whatever became of the word that it was.
      this.sent.set(number, {
        got,
        done(answer) {
          got();
          settle(answer);
        },
      });
    });
    try {
      for (let attempt = 1; attempt <= TRIES && !wasTaken; attempt += 1) {
        if (!this.line && attempt === 1)
          return { ok: false, code: CODES.linkDown, why: `the gateway on ${this.port} cannot be reached` };
        this.line?.write(frame);
        await within(taken, GOT_WITHIN_MS);
      }
      // Its word that it has the frame may be what was lost.
      if (!wasTaken) return { ok: null, why: `the gateway on ${this.port} answered none of ${TRIES} frames` };
      const answer = await within(answered, timeoutMs);
      return answer ?? { ok: null, why: `node ${content.n} did not answer within ${timeoutMs} ms` };
    } finally {
      this.sent.delete(number);
    }
  }

  private nextNumber(): number {
    this.lastNumber = (this.lastNumber + 1) % 65_536;
    return this.lastNumber;
  }

  private async open(): Promise<void> {
    const line = await openPort(this.port);
    if (this.stopped) return void line.destroy();
    this.line = line;
    const reader = new FrameReader();
    line.on("data", (piece: Buffer) => {
      for (const frame of reader.push(piece)) this.receive(frame);
    });
    line.on("error", () => {});
    line.on("close", () => {
      if (this.line !== line) return;
      this.line = null;
      for (const node of this.nodes.values()) node.lineLost();
      if (!this.stopped) this.openLater();
    });
    line.write(encodeFrame({ k: "who", s: this.nextNumber() }));
  }

  private openLater(): void {
    this.again = setTimeout(() => {
      this.again = null;
      this.start();
    }, AGAIN_MS);
  }

  private receive(frame: Frame): void {
    const { k, n, s } = frame;
    const sent = typeof s === "number" ? this.sent.get(s) : undefined;
    if (k === "got") sent?.got();
    else if (k === "done") sent?.done(answerFrom(frame));
    else if (typeof n === "number") this.nodes.get(n)?.receive(frame);
  }
}

function answerFrom({ ok, code, n }: Frame): FarAnswer {
  if (ok === true) return { ok: true, is: null };
  const known = typeof code === "number" && Number.isSafeInteger(code) ? code : CODES.refused;
  return {
    ok: false,
    code: known,
    why: known === 1 ? `the gateway has no radio link to node ${n}` : `node ${n} said no`,
  };
}

class RadioNode implements DeviceDriver {
  private readonly device: DescribedDevice;
  private readonly reach: RadioReach;
  private readonly line: RadioLine;
  private events: FarEvents | null = null;

  constructor(device: DescribedDevice, reach: RadioReach, line: RadioLine) {
    this.device = device;
    this.reach = reach;
    this.line = line;
    line.add(reach.node, this);
  }

  async start(events: FarEvents): Promise<void> {
    this.events = events;
    this.line.start();
  }

  async stop(): Promise<void> {
    this.line.stop();
  }

  tell({ binding: known, to, forMs }: FarOrder): Promise<FarAnswer> {
    const binding = deviceBinding(this.device, known);
    const content = { k: "do", n: this.reach.node, c: binding.index, v: binding.reversed ? turned(to) : to };
    return this.line.ask(forMs === null ? content : { ...content, f: forMs }, this.reach.timeoutMs ?? TIMEOUT_MS);
  }

  lineLost(): void {
    this.events?.reachable(false);
  }

  /** What the node says by itself: what a channel is, or whether it is within reach. */
  receive({ k, c, v, by, up }: Frame): void {
    if (k === "here" && typeof up === "boolean") return this.events?.reachable(up);
    const binding = k === "is" ? this.bindingOf(c) : undefined;
    if (!binding || !isValue(v)) return;
    this.events?.reachable(true);
    const cause = REPORTERS.find((one) => one === by) ?? null;
    this.events?.observed(binding, deviceBinding(this.device, binding).reversed ? turned(v) : v, cause);
  }

  private bindingOf(index: unknown): ChannelBinding | undefined {
    return bindingsOf(this.device).find((binding) => binding.index === index);
  }
}

function turned(value: Value): Value {
  if (value === "on") return "off";
  return value === "off" ? "on" : value;
}

/** @returns null when it takes longer */
async function within<Result>(work: Promise<Result>, ms: number): Promise<Result | null> {
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<null>((resolve) => {
    timer = setTimeout(() => resolve(null), ms);
  });
  try {
    return await Promise.race([work, late]);
  } finally {
    clearTimeout(timer);
  }
}
