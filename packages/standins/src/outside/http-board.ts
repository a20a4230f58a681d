/**
 * An old relay board with a small web server: each output has to be made an output first (`PUT /pin/<n>/mode/out`), then
 * `PUT /pin/<n>/<1 or 0>` switches it, and `GET /pin/<n>` tells what it is.
 */
import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { isOn } from "@bold-relay/core";
import { type Contact, OutsideDevice, type OutsideOptions } from "./contacts.ts";

export class HttpBoard extends OutsideDevice {
  private server: Server | null = null;
  private readonly outputs = new Set<number>();
  private port: number;

  /** @param port 0 for any free one */
  constructor(options: OutsideOptions, port = 0) {
    super(options);
    this.port = port;
  }

  get url(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  protected async plugIn(): Promise<void> {
    const server = createServer((req, res) => void this.answer(req, res));
    this.server = server;
    await new Promise<void>((resolve) => server.listen(this.port, "127.0.0.1", resolve));
    this.port = (server.address() as AddressInfo).port;
  }

  /** Its pins forget that they were outputs, as the real ones do. */
  protected async pullOut(): Promise<void> {
    this.outputs.clear();
    const server = this.server;
    this.server = null;
    await new Promise<void>((resolve) => {
      if (!server) return resolve();
      server.close(() => resolve());
      server.closeAllConnections();
    });
  }

  private async answer(req: IncomingMessage, res: ServerResponse): Promise<void> {
    req.resume();
    const say = (status: number, text: string) => {
      res.writeHead(status, { "content-type": "text/plain" }).end(text);
    };
    if (req.method !== "GET") this.heard.push(`${req.method} ${req.url}`);
    if (this.fault === "silent") return;
    await this.dawdle();
    const [, pin, verb] = /^\/pin\/(\d+)(?:\/(.+))?$/.exec(req.url ?? "") ?? [];
    const contact = this.at(pin);
    if (!contact) return say(404, "no such pin");
    if (req.method === "GET") return say(200, this.fault === "garbling" ? "<b>?</b>" : isOn(contact.value) ? "1" : "0");
    this.obey(contact, verb ?? "", say);
  }

  private obey(contact: Contact, verb: string, say: (status: number, text: string) => void): void {
    if (this.fault === "refusing") return say(403, "locked");
    if (verb === "mode/out") {
      this.outputs.add(contact.index);
      return say(200, "ok");
    }
    if (!this.outputs.has(contact.index)) return say(409, "not an output");
    this.set(contact, verb === "1" ? "on" : "off");
    say(200, this.fault === "garbling" ? "<b>?</b>" : verb);
  }
}
