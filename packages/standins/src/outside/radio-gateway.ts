/**
 * A radio gateway on a serial line, with nodes out of everybody's reach but its own. TCP stands in for the line here. What
 * it has heard before it does not hand on a second time; while it is `slow` it repeats what it says, as radios do.
 */

import type { AddressInfo } from "node:net";
import { createServer, type Server, type Socket } from "node:net";
import { isValue, kindOf } from "@bold-relay/core";
import { encodeFrame, FrameReader } from "@bold-relay/translators";
import { type Contact, OutsideDevice, type OutsideOptions } from "./contacts.ts";

const NO_RADIO_LINK = 1;
const SAID_NO = 4;
const REMEMBERED = 64;

/** The line, with the nodes behind it. */
export class RadioGateway {
  private readonly nodes = new Map<number, RadioNodeBoard>();
  private readonly heard = new Map<number, object | null>();
  private server: Server | null = null;
  private line: Socket | null = null;
  port: number;

  /** @param port 0 for any free one */
  constructor(port = 0) {
    this.port = port;
  }

  add(address: number, node: RadioNodeBoard): void {
    this.nodes.set(address, node);
  }

  async start(): Promise<void> {
    const server = createServer((socket) => this.take(socket));
    this.server = server;
    await new Promise<void>((resolve) => server.listen(this.port, "127.0.0.1", resolve));
    this.port = (server.address() as AddressInfo).port;
  }

  async stop(): Promise<void> {
    this.line?.destroy();
    const server = this.server;
    this.server = null;
    await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
  }

  say(frame: object): void {
    this.line?.write(encodeFrame(frame));
  }

  /** Noise on the line, as a motor next to it makes. */
  crackle(bytes: Uint8Array): void {
    this.line?.write(bytes);
  }

  private take(socket: Socket): void {
    this.line?.destroy();
    this.line = socket;
    const reader = new FrameReader();
    socket.setNoDelay(true);
    socket.on("error", () => {});
    socket.on("data", (piece: Buffer) => {
      for (const frame of reader.push(piece)) void this.receive(frame);
    });
  }

  private async receive({ k, n, s, c, v }: Record<string, unknown>): Promise<void> {
    if (k === "who") {
      for (const node of this.nodes.values()) node.announce();
      return;
    }
    if (k !== "do" || typeof s !== "number" || typeof n !== "number") return;
    const node = this.nodes.get(n);
    if (node?.isDeaf) return;
    this.say({ k: "got", s });
    // A frame that was sent again because our word was lost.
    if (this.heard.has(s)) {
      const answer = this.heard.get(s);
      if (answer) this.say(answer);
      return;
    }
    this.note(s, null);
    const result = node ? await node.obey(c, v) : { ok: false, code: NO_RADIO_LINK };
    if (!result) return;
    const answer = { k: "done", n, s, ...result };
    this.note(s, answer);
    this.say(answer);
    if (result.ok) node?.tell(c, "command");
  }

  private note(number: number, answer: object | null): void {
    this.heard.set(number, answer);
    const [oldest] = this.heard.keys();
    if (this.heard.size > REMEMBERED && oldest !== undefined) this.heard.delete(oldest);
  }
}

/** One node behind the gateway. */
export class RadioNodeBoard extends OutsideDevice {
  private readonly gateway: RadioGateway;
  private readonly address: number;
  private isUp = false;

  constructor(options: OutsideOptions, gateway: RadioGateway, address: number) {
    super(options);
    this.gateway = gateway;
    this.address = address;
    gateway.add(address, this);
  }

  /** The gateway itself does not answer for it. */
  get isDeaf(): boolean {
    return this.fault === "garbling";
  }

  protected async plugIn(): Promise<void> {
    this.isUp = true;
    this.announce();
  }

  protected async pullOut(): Promise<void> {
    this.isUp = false;
    this.gateway.say({ k: "here", n: this.address, up: false });
  }

  announce(): void {
    this.gateway.say({ k: "here", n: this.address, up: this.isUp });
    if (this.isUp) for (const { index } of this.contacts) this.tell(index, "boot");
  }

  protected override flipped({ index }: Contact): void {
    this.tell(index, "hand");
  }

  tell(index: unknown, by: string): void {
    const contact = this.at(index);
    if (!contact || !kindOf(contact.kind).repeatable) return;
    this.gateway.say({ k: "is", n: this.address, c: contact.index, v: contact.value, by });
  }

  /** @returns null when it says nothing */
  async obey(index: unknown, to: unknown): Promise<{ ok: boolean; code?: number } | null> {
    this.heard.push(`${String(index)} ${String(to)}`);
    if (!this.isUp) return { ok: false, code: NO_RADIO_LINK };
    if (this.fault === "silent") return null;
    await this.dawdle();
    const contact = this.at(index);
    if (this.fault === "refusing" || !contact || !isValue(to)) return { ok: false, code: SAID_NO };
    this.set(contact, to);
    return { ok: true };
  }
}
