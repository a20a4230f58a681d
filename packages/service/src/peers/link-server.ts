/** Takes links from other instances, and answers their calls: those that are answered in one turn of the event loop in one write. */
import type { IncomingMessage } from "node:http";
import type { Duplex } from "node:stream";
import { setTimeout as pause } from "node:timers/promises";
import { RelayError } from "@bold-relay/core";
import { WebSocket, WebSocketServer } from "ws";
import { asRelayError } from "../http-exchange/problem.ts";
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import { HOP_HEADER } from "./forward.ts";
import { LinkSeal } from "./link-seal.ts";
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

/** Answers a call; null: this instance does not lead what it asks for. @throws RelayError */
export type AnswerCall = (verb: string, body: unknown) => Promise<object | null>;

/** An instance that reads slower has its link ended, bytes. */
const MOST_UNREAD = 64_000_000;
/** So long those who have called may take to end their link once it is left, ms. */
const LEAVE_WITHIN_MS = 500;
const LOOK_EVERY_MS = 10;
/** Upgrade Required (RFC 9110, 15.5.22). */
export const SPEAKS_OTHER = 426;
const NONCE = /^[0-9a-f]{32}$/;

interface Link {
  readonly socket: WebSocket;
  readonly answers: Gathered;
  unanswered: number;
}

export class LinkServer {
  private readonly proof: PeerProof;
  private readonly log: Log;
  private readonly answerCall: AnswerCall;
  private readonly server = new WebSocketServer({
    ...{ noServer: true, perMessageDeflate: false, maxPayload: MOST_FRAME_BYTES, clientTracking: false },
    handleProtocols: (offered) => LINK_PROTOCOLS.find((one) => offered.has(one)) ?? false,
  });
  /** What goes with the answer to whoever opens a link. */
  private readonly shown = new WeakMap<IncomingMessage, string>();
  private readonly links = new Set<Link>();
  private isLeaving = false;

  constructor(proof: PeerProof, log: Log, answerCall: AnswerCall) {
    this.proof = proof;
    this.log = log;
    this.answerCall = answerCall;
    this.server.on("headers", (headers, req) => headers.push(`${LINK_HEADER}: ${this.shown.get(req) ?? ""}`));
  }

  /** Calls that have no answer so far. */
  get unanswered(): number {
    let count = 0;
    for (const link of this.links) count += link.unanswered;
    return count;
  }

  /** Whether a request is for a link. */
  readonly isFor = ({ url }: IncomingMessage): boolean => url === LINK_PATH && !this.isLeaving;

  /** @returns whether it is a link, and is being answered */
  readonly take = (req: IncomingMessage, socket: Duplex, head: Buffer): boolean => {
    if (!this.isFor(req)) return false;
    const { [HOP_HEADER]: hop, [LINK_HEADER]: nonce, "sec-websocket-protocol": offered = "" } = req.headers;
    if (typeof hop !== "string" || typeof nonce !== "string" || !NONCE.test(nonce) || !this.proof.isOurs(req, hop)) {
      socket.end(answerWith("403 Forbidden"));
      return true;
    }
    if (!offered.split(/,\s*/).some((one) => LINK_PROTOCOLS.includes(one))) {
      socket.end(answerWith(`${SPEAKS_OTHER} Upgrade Required`, "upgrade: websocket"));
      return true;
    }
    const { header, key } = this.proof.linkAnswer(nonce);
    this.shown.set(req, header);
    this.server.handleUpgrade(req, socket, head, (opened) => this.serve(opened, key));
    return true;
  };

  /** Answers what was called until now, and nothing else: whoever calls looks for another instance. */
  leave(): void {
    if (this.isLeaving) return;
    this.isLeaving = true;
    for (const { answers } of this.links) answers.add(JSON.stringify({ leaving: true } satisfies LinkAnswer));
  }

  /** Resolves once all links have ended, which they do soon. */
  async close(): Promise<void> {
    this.leave();
    const end = performance.now() + LEAVE_WITHIN_MS;
    while (this.links.size > 0 && performance.now() < end) await pause(LOOK_EVERY_MS);
    for (const { socket } of this.links) socket.terminate();
  }

  private serve(socket: WebSocket, key: Buffer): void {
    const theirs = new LinkSeal(key, "caller");
    const own = new LinkSeal(key, "answerer");
    const answers = new Gathered((list) => {
      if (socket.readyState !== WebSocket.OPEN) return;
      socket.send(own.seal(list));
      if (socket.bufferedAmount > MOST_UNREAD) socket.terminate();
    });
    const link: Link = { socket, answers, unanswered: 0 };
    this.links.add(link);
    socket.on("message", (frame) => {
      const text = theirs.open(frame as Buffer);
      if (text === null) {
        this.log.warn("a link between instances brought what no instance of ours has sealed, and is ended");
        return socket.terminate();
      }
      for (const call of JSON.parse(text) as LinkCall[]) void this.answer(link, call);
    });
    socket.on("error", (error) => this.log.debug({ err: error }, "a link between instances has failed"));
    socket.once("close", () => this.links.delete(link));
  }

  private async answer(link: Link, { id, verb, body }: LinkCall): Promise<void> {
    link.unanswered += 1;
    const answer = await this.answerTo(link, id, verb, body);
    link.unanswered -= 1;
    link.answers.add(JSON.stringify(answer));
  }

  private async answerTo(link: Link, id: number, verb: string, body: unknown): Promise<LinkAnswer> {
    if (this.isLeaving) return { id, isElsewhere: true };
    try {
      if (link.unanswered > limits.peerCalls)
        throw new RelayError("service-busy", { why: "Too many requests of another instance have no answer so far" });
      const answer = await this.answerCall(verb, body);
      return answer === null ? { id, isElsewhere: true } : { id, answer };
    } catch (error) {
      const { code, facts } = asRelayError(error, this.log);
      return { id, problem: { code, facts } };
    }
  }
}

/** An answer without a body, after which the connection ends. */
function answerWith(status: string, ...headers: readonly string[]): string {
  const lines = [`HTTP/1.1 ${status}`, ...headers, "connection: close", "content-length: 0"];
  return `${lines.join("\r\n")}\r\n\r\n`;
}
