/**
 * A board that takes typed lines over TCP: it greets, shows a prompt, and takes one connection. `SET <n> ON|OFF` is
 * answered with `OK <n> ON`, `GET <n>` with `IS <n> ON`; a hand at the switch is told as `IS <n> ON` unasked.
 */
import type { Socket } from "node:net";
import { isOn, LineSplitter } from "@bold-relay/core";
import type { Contact } from "./contacts.ts";
import { TcpDevice } from "./tcp-device.ts";

const GREETING = "RELAY BOARD READY\r\n> ";

export class LineBoard extends TcpDevice {
  private caller: Socket | null = null;

  protected override flipped(contact: Contact): void {
    this.say(`IS ${contact.index} ${wordOf(contact)}`);
  }

  protected take(socket: Socket): void {
    // It has room for one caller.
    if (this.caller) return void socket.end("BUSY\r\n");
    this.caller = socket;
    const splitter = new LineSplitter(80);
    socket.write(GREETING);
    socket.on("data", (piece: Buffer) => {
      for (const line of splitter.push(piece)) if ("text" in line && line.text !== "") void this.obey(line.text);
    });
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
