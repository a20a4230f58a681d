/**
 * A board that takes typed lines over TCP: it greets, shows a prompt, and takes one connection. `SET <n> ON|OFF` is
 * answered with `OK <n> ON`, `GET <n>` with `IS <n> ON`; a hand at the switch is told as `IS <n> ON` unasked.
 */

import type { AddressInfo } from "node:net";
import { createServer, type Server, type Socket } from "node:net";
import { isOn, LineSplitter } from "@bold-relay/core";
import { type Contact, OutsideDevice, type OutsideOptions } from "./contacts.ts";

const GREETING = "RELAY BOARD READY\r\n> ";

export class LineBoard extends OutsideDevice {
  private server: Server | null = null;
  private caller: Socket | null = null;
  port: number;

  /** @param port 0 for any free one */
  constructor(options: OutsideOptions, port = 0) {
    super(options);
    this.port = port;
  }

  protected async plugIn(): Promise<void> {
    const server = createServer((socket) => this.take(socket));
    this.server = server;
    await new Promise<void>((resolve) => server.listen(this.port, "127.0.0.1", resolve));
    this.port = (server.address() as AddressInfo).port;
  }

  protected async pullOut(): Promise<void> {
    this.caller?.destroy();
    const server = this.server;
    this.server = null;
    await new Promise<void>((resolve) => (server ? server.close(() => resolve()) : resolve()));
  }

  protected override flipped(contact: Contact): void {
    this.say(`IS ${contact.index} ${wordOf(contact)}`);
  }

  private take(socket: Socket): void {
    // It has room for one caller.
    if (this.caller) return void socket.end("BUSY\r\n");
    this.caller = socket;
    const splitter = new LineSplitter(80);
    socket.setNoDelay(true);
    socket.write(GREETING);
    socket.on("data", (piece: Buffer) => {
      for (const line of splitter.push(piece)) if ("text" in line && line.text !== "") void this.obey(line.text);
    });
    socket.on("error", () => {});
    socket.on("close", () => {
      if (this.caller === socket) this.caller = null;
    });
  }

  private async obey(line: string): Promise<void> {
    const [, verb, index, word] = /^(SET|GET) (\d+)(?: (ON|OFF))?$/i.exec(line.trim()) ?? [];
    if (verb?.toUpperCase() === "SET") this.heard.push(line);
    if (this.fault === "silent") return;
    await this.dawdle();
    const contact = this.at(index);
    if (!contact) return this.say("ERR no such relay");
    if (verb?.toUpperCase() === "GET") return this.say(`IS ${contact.index} ${wordOf(contact)}`);
    if (this.fault === "refusing") return this.say("ERR locked");
    this.set(contact, word?.toUpperCase() === "ON" ? "on" : "off");
    this.say(this.fault === "garbling" ? "%&/(" : `OK ${contact.index} ${wordOf(contact)}`);
  }

  private say(line: string): void {
    this.caller?.write(`${line}\r\n> `);
  }
}

function wordOf({ value }: Contact): string {
  return isOn(value) ? "ON" : "OFF";
}
