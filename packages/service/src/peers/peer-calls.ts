/** Ways from this instance to the others: calls over one link to each, and streams of JSON lines. */
import { Agent, type IncomingMessage, request } from "node:http";
import { createInterface } from "node:readline";
import type { Log } from "../platform/log.ts";
import type { Instance } from "../store/leases.ts";
import { HOP_HEADER } from "./forward.ts";
import { NobodyThere, PeerLink } from "./peer-link.ts";
import { PEER_PATH } from "./peer-path.ts";
import type { PeerProof } from "./peer-proof.ts";
import { provePeer } from "./prove-peer.ts";

/** A stream that says nothing for longer is dead, ms: its other side says something every second. */
const SILENT_MS = 4_000;

export class PeerCalls {
  private readonly name: string;
  private readonly proof: PeerProof;
  private readonly log: Log;
  /** By address. */
  private readonly links = new Map<string, PeerLink>();
  private readonly agent = new Agent({ keepAlive: true });
  /** Addresses of instances with which this one has no version of the link in common: each is named once. */
  private readonly otherVersions = new Set<string>();
  private isClosed = false;

  /** @param name of this instance */
  constructor(name: string, proof: PeerProof, log: Log) {
    this.name = name;
    this.proof = proof;
    this.log = log;
  }

  /** See `PeerLink.call`. */
  async call<Answer>(peer: Instance, verb: string, body: object, withinMs: number): Promise<Answer> {
    if (this.isClosed) throw new NobodyThere("this instance stops");
    const link = this.links.get(peer.address) ?? this.connect(peer);
    return (await link.call(verb, body, withinMs)) as Answer;
  }

  private connect(peer: Instance): PeerLink {
    const { name, proof, log, links } = this;
    const link: PeerLink = new PeerLink({
      ...{ peer, name, proof, log },
      onLeave() {
        if (links.get(peer.address) === link) links.delete(peer.address);
      },
      onOtherVersion: () => this.noteOtherVersion(peer),
    });
    links.set(peer.address, link);
    return link;
  }

  private noteOtherVersion({ name, address }: Instance): void {
    if (this.otherVersions.has(address)) return;
    this.otherVersions.add(address);
    this.log.error({ leader: name }, "an instance of another version cannot be asked: upgrade one of the two");
  }

  /** Reads a stream of JSON lines until it ends. @returns why it ended */
  async follow(peer: Instance, verb: string, onLine: (line: unknown) => void, signal: AbortSignal): Promise<string> {
    try {
      if (!(await provePeer(peer, this.proof, this.log))) return "nobody answers there";
      const response = await this.open(peer, verb);
      if (response.statusCode !== 200) {
        response.resume();
        return `it answered ${response.statusCode}`;
      }
      const end = () => response.destroy();
      signal.addEventListener("abort", end, { once: true });
      let timer = setTimeout(end, SILENT_MS);
      try {
        for await (const line of createInterface({ input: response })) {
          clearTimeout(timer);
          timer = setTimeout(end, SILENT_MS);
          if (line !== "") onLine(JSON.parse(line));
        }
      } finally {
        clearTimeout(timer);
        signal.removeEventListener("abort", end);
      }
      return "it has ended";
    } catch (error) {
      return error instanceof Error ? error.message || error.name : String(error);
    }
  }

  close(): void {
    this.isClosed = true;
    for (const link of this.links.values()) link.close();
    this.agent.destroy();
  }

  private open(peer: Instance, verb: string): Promise<IncomingMessage> {
    const path = `${PEER_PATH}${verb}`;
    return new Promise((resolve, reject) => {
      const headers = { [HOP_HEADER]: this.proof.forRequest(this.name, "GET", path) };
      const req = request(new URL(path, peer.address), { agent: this.agent, headers }).end();
      const timer = setTimeout(() => req.destroy(new Error("no answer in time")), SILENT_MS);
      req.once("response", resolve);
      req.once("error", reject);
      req.once("close", () => clearTimeout(timer));
      req.once("response", () => clearTimeout(timer));
    });
  }
}
