/**
 * One connection to another instance, over which it is called: many calls at a time, those of one turn of the event loop in one write.
 *
 *     connecting ──▶ open ──▶ leaving ──▶ ended
 *         └───────────┴──────────────────▲
 *
 * Calls wait while it connects. The other side leaves before it stops: it answers what it has, and takes nothing new.
 */
import { RelayError } from "@bold-relay/core";
import { WebSocket } from "ws";
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import type { Instance } from "../store/leases.ts";
import { HOP_HEADER } from "./forward.ts";
import { LinkSeal } from "./link-seal.ts";
import { SPEAKS_OTHER } from "./link-server.ts";
import {
  Gathered,
  LINK_HEADER,
  LINK_PATH,
  LINK_PROTOCOLS,
  type LinkAnswer,
  type LinkCall,
  MOST_FRAME_BYTES,
} from "./link-words.ts";
import type { PeerProof } from "./peer-proof.ts";
import { changingHands } from "./prove-peer.ts";

/** Nothing of the call has been done: it can be made again elsewhere. */
export class NobodyThere extends Error {}

export interface PeerLinkDeps {
  readonly peer: Instance;
  /** Of this instance. */
  readonly name: string;
  readonly proof: PeerProof;
  readonly log: Log;
  /** It takes no call from now on. */
  readonly onLeave: () => void;
  /** The other side speaks nothing that this instance can speak. */
  readonly onOtherVersion: () => void;
}

interface Call {
  readonly timer: NodeJS.Timeout;
  readonly resolve: (answer: unknown) => void;
  readonly reject: (error: Error) => void;
}

const CONNECT_WITHIN_MS = 2_000;
const PING_EVERY_MS = 1_000;
/** So many pings without an answer, and nobody is there any more. */
const MOST_UNHEARD = 4;

export class PeerLink {
  private readonly deps: PeerLinkDeps;
  private readonly socket: WebSocket;
  private readonly calls = new Map<number, Call>();
  private readonly outgoing = new Gathered((list) => this.write(list));
  /** Null until the other side has proven that it is an instance of ours. */
  private seals: { readonly own: LinkSeal; readonly theirs: LinkSeal } | null = null;
  /** What waits for that. */
  private waiting: string[] = [];
  private lastId = 0;
  /** Calls up to this one may have arrived. */
  private lastSent = 0;
  private unheard = 0;
  /** The other side takes nothing new. */
  private isLeft = false;
  private isEnded = false;
  private readonly timer: NodeJS.Timeout;

  constructor(deps: PeerLinkDeps) {
    this.deps = deps;
    const { peer, name, proof } = deps;
    const nonce = proof.newChallenge();
    const url = new URL(LINK_PATH, peer.address);
    this.socket = new WebSocket(url, [...LINK_PROTOCOLS], {
      headers: { [HOP_HEADER]: proof.forRequest(name, "GET", LINK_PATH), [LINK_HEADER]: nonce },
      ...{ handshakeTimeout: CONNECT_WITHIN_MS, maxPayload: MOST_FRAME_BYTES, perMessageDeflate: false },
    });
    this.socket.once("unexpected-response", (_, { statusCode }) => {
      if (statusCode === SPEAKS_OTHER) deps.onOtherVersion();
      this.end(new Error(`it answered ${statusCode}`));
    });
    this.socket.once("upgrade", ({ headers }) => this.begin(nonce, String(headers[LINK_HEADER])));
    this.socket.once("open", () => this.sendWaiting());
    this.socket.on("message", (data) => this.read(data as Buffer));
    this.socket.on("pong", () => {
      this.unheard = 0;
    });
    this.socket.once("error", (cause) => this.end(cause));
    this.socket.once("close", () => this.end(new Error("the connection has ended")));
    this.timer = setInterval(() => this.ping(), PING_EVERY_MS);
  }

  /**
   * @throws NobodyThere when it can be made again elsewhere
   * @throws RelayError what the other instance refuses with; holder-lost when nobody knows what became of it; service-busy when too much
   *   waits for the other instance
   */
  call(verb: string, body: object, withinMs: number): Promise<unknown> {
    if (this.isEnded) return Promise.reject(new NobodyThere("the connection has ended"));
    if (this.calls.size >= limits.peerCalls)
      return Promise.reject(new RelayError("service-busy", { why: "Too many requests wait for another instance" }));
    this.lastId += 1;
    const id = this.lastId;
    const text = JSON.stringify({ id, verb, body } satisfies LinkCall);
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => this.settle(id)?.reject(lost(new Error("no answer in time"))), withinMs);
      this.calls.set(id, { timer, resolve, reject });
      if (this.socket.readyState === WebSocket.OPEN) this.outgoing.add(text);
      else this.waiting.push(text);
    });
  }

  /** Whoever waits for an answer is told. */
  close(): void {
    this.end(new Error("this instance stops"));
  }

  private begin(nonce: string, shown: string): void {
    const { proof, log, peer } = this.deps;
    const key = proof.linkKey(nonce, shown);
    if (key === null) {
      log.error({ address: peer.address, leader: peer.name }, "what answers there is no instance of this installation");
      return this.end(changingHands());
    }
    this.seals = { own: new LinkSeal(key, "caller"), theirs: new LinkSeal(key, "answerer") };
  }

  private sendWaiting(): void {
    for (const text of this.waiting.splice(0)) this.outgoing.add(text);
    this.outgoing.flush();
  }

  private write(list: string): void {
    if (this.isEnded || this.seals === null) return;
    this.lastSent = this.lastId;
    this.socket.send(this.seals.own.seal(list));
  }

  private read(frame: Buffer): void {
    this.unheard = 0;
    const text = this.seals?.theirs.open(frame) ?? null;
    if (text === null) return this.end(new Error("it sent what no instance of ours has sealed"));
    for (const one of JSON.parse(text) as LinkAnswer[]) this.take(one);
    if (this.calls.size === 0 && this.isLeft) this.socket.close();
  }

  private take(one: LinkAnswer): void {
    if ("leaving" in one) {
      this.isLeft = true;
      this.deps.onLeave();
      return;
    }
    const call = this.settle(one.id);
    if ("answer" in one) call?.resolve(one.answer);
    else if ("problem" in one) call?.reject(new RelayError(one.problem.code, one.problem.facts));
    else call?.reject(new NobodyThere("it does not lead there"));
  }

  private settle(id: number): Call | undefined {
    const call = this.calls.get(id);
    this.calls.delete(id);
    if (call) clearTimeout(call.timer);
    return call;
  }

  private ping(): void {
    if (this.socket.readyState !== WebSocket.OPEN) return;
    if (this.unheard >= MOST_UNHEARD) return this.end(new Error("it does not answer"));
    this.unheard += 1;
    this.socket.ping();
  }

  private end(cause: Error): void {
    if (this.isEnded) return;
    this.isEnded = true;
    clearInterval(this.timer);
    this.socket.terminate();
    this.deps.onLeave();
    const unsent = cause instanceof RelayError ? cause : new NobodyThere(cause.message);
    for (const id of [...this.calls.keys()]) this.settle(id)?.reject(id <= this.lastSent ? lost(cause) : unsent);
  }
}

function lost(cause: Error): RelayError {
  return new RelayError("holder-lost", {}, { cause });
}
