/** Calls from one instance to another: JSON over connections that are kept, each proven to come from an instance of ours. */
import { Agent, type IncomingMessage, request } from "node:http";
import { createInterface } from "node:readline";
import { type ErrorCode, type ErrorFacts, RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import type { Instance } from "../store/leases.ts";
import { HOP_HEADER } from "./forward.ts";
import { BODY_HEADER, NOT_HERE, PEER_PATH } from "./peer-path.ts";
import type { PeerProof } from "./peer-proof.ts";
import { provePeer } from "./prove-peer.ts";

/** An error as it goes from one instance to another. */
export interface PeerProblem {
  readonly code: ErrorCode;
  readonly facts: ErrorFacts;
}

/** Nothing of the call has left this instance: it can be made again elsewhere. */
export class NobodyThere extends Error {}

/** Whoever waits for an outcome holds one. */
const MOST_CONNECTIONS = 1_024;
/** A stream that says nothing for longer is dead, ms: its other side says something every second. */
const SILENT_MS = 4_000;

export class PeerCalls {
  private readonly name: string;
  private readonly proof: PeerProof;
  private readonly log: Log;
  private readonly agent = new Agent({ keepAlive: true, maxSockets: MOST_CONNECTIONS });
  /** Addresses that have proven to be an instance of ours. */
  private readonly proven = new Set<string>();

  /** @param name of this instance */
  constructor(name: string, proof: PeerProof, log: Log) {
    this.name = name;
    this.proof = proof;
    this.log = log;
  }

  /**
   * @throws NobodyThere when it can be asked again
   * @throws RelayError what the other instance refuses with; holder-lost when nobody knows what became of it
   */
  async call<Answer>(peer: Instance, verb: string, body: object, withinMs: number): Promise<Answer> {
    await this.requireOurs(peer);
    const response = await this.send(peer, verb, body, withinMs);
    const text = await textOf(response).catch((cause: unknown) => {
      throw new RelayError("holder-lost", {}, { cause });
    });
    if (response.statusCode === 200) return JSON.parse(text) as Answer;
    if (response.statusCode === NOT_HERE) throw new NobodyThere("it does not lead there");
    const { code, facts } = JSON.parse(text) as PeerProblem;
    throw new RelayError(code, facts);
  }

  /** Reads a stream of JSON lines until it ends. @returns why it ended */
  async follow(peer: Instance, verb: string, onLine: (line: unknown) => void, signal: AbortSignal): Promise<string> {
    try {
      await this.requireOurs(peer);
      const response = await this.send(peer, verb, {}, SILENT_MS);
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
    this.agent.destroy();
  }

  private async requireOurs(peer: Instance): Promise<void> {
    if (this.proven.has(peer.address)) return;
    if (!(await provePeer(peer, this.proof, this.log))) throw new NobodyThere("nobody answers there");
    this.proven.add(peer.address);
  }

  private send(peer: Instance, verb: string, body: object, withinMs: number): Promise<IncomingMessage> {
    const path = `${PEER_PATH}${verb}`;
    const text = JSON.stringify(body);
    const hop = this.proof.forRequest(this.name, "POST", path);
    return new Promise((resolve, reject) => {
      let sent = false;
      const req = request(new URL(path, peer.address), {
        method: "POST",
        agent: this.agent,
        headers: {
          "content-type": "application/json",
          "content-length": Buffer.byteLength(text),
          [HOP_HEADER]: hop,
          [BODY_HEADER]: this.proof.forBody(hop, text),
        },
      });
      const timer = setTimeout(() => req.destroy(new Error("no answer in time")), withinMs);
      req.once("socket", (socket) => {
        const write = () => {
          sent = true;
          req.end(text);
        };
        if (socket.connecting) socket.once("connect", write);
        else write();
      });
      req.once("response", (response) => {
        clearTimeout(timer);
        resolve(response);
      });
      req.once("error", (cause) => {
        clearTimeout(timer);
        // Another process may listen there by now.
        this.proven.delete(peer.address);
        reject(sent ? new RelayError("holder-lost", {}, { cause }) : new NobodyThere(cause.message));
      });
    });
  }
}

async function textOf(response: IncomingMessage): Promise<string> {
  const chunks: Buffer[] = [];
  for await (const chunk of response) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks).toString("utf8");
}
