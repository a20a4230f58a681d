/**
 * What an instance does with requests while another one holds the lanes: it hands them on, so that a balancer may send
 * any request anywhere. Everything is decided in one place, and the answer is the leader's own. While the lanes change
 * hands requests wait, a bounded number for a bounded time.
 */
import { Agent, type ClientRequest, type IncomingMessage, request, type ServerResponse } from "node:http";
import { RelayError } from "@bold-relay/core";
import { sendProblem } from "../http-exchange/problem.ts";
import { limits } from "../platform/config/limits.ts";
import type { Log } from "../platform/log.ts";
import { liveView } from "../platform/version.ts";
import type { Instance } from "../store/leases.ts";
import { NOT_HERE, PEER_PATH } from "./peer-path.ts";
import type { PeerProof } from "./peer-proof.ts";
import { changingHands, provePeer } from "./prove-peer.ts";

/** Marks what was handed on. */
export const HOP_HEADER = "bold-relay-via";
/** How often it was handed on before. While the lanes change hands each knows a little more than the one before. */
const HOPS_HEADER = "bold-relay-hops";
/** Once more would be round in circles. */
const MOST_HOPS = 3;
/** Meant for one connection only (RFC 9110, 7.6.1). */
const OF_ONE_HOP = ["connection", "keep-alive", "proxy-connection", "te", "trailer", "transfer-encoding", "upgrade"];
const LOOK_AGAIN_MS = 250;
/** So long a leader may still answer what it was asked before it gave the lanes away, ms. */
const ANSWERED_WITHIN_MS = 1_500;

export class Forward {
  private readonly instance: Instance;
  private readonly log: Log;
  private readonly agent = new Agent({ keepAlive: true, maxSockets: limits.forwarded });
  private readonly proof: PeerProof;
  private known: Instance | null = null;
  /** The address that has proven to be an instance of ours. */
  private proven: string | null = null;
  private readonly waiting = new Set<() => void>();
  /** What is with the leader just now. */
  private readonly under = new Set<ClientRequest>();

  constructor(instance: Instance, log: Log, proof: PeerProof) {
    this.instance = instance;
    this.log = log;
    this.proof = proof;
  }

  /** Who holds the lanes, as far as this instance knows; null while it must find out. */
  get leader(): Instance | null {
    return this.known;
  }

  set leader(leader: Instance | null) {
    if (leader?.address === this.known?.address) return;
    this.log.info({ leader: leader?.name ?? null }, "requests go to the leader");
    this.known = leader;
    this.proven = null;
    if (!leader) return;
    // One that gave the lanes away answers what it was asked. One that stands still keeps its connections, and would answer when
    // nobody needs it any more.
    const late = [...this.under];
    const timer = setTimeout(() => {
      for (const onward of late) onward.destroy(new Error("the lanes have changed hands"));
    }, ANSWERED_WITHIN_MS);
    timer.unref();
    this.wakeAll();
  }

  /** Hands on what was read already. @param body as it was read */
  handOnRead(req: IncomingMessage, res: ServerResponse, body: object): void {
    this.begin(req, res, Buffer.from(JSON.stringify(body)));
  }

  readonly serve = (req: IncomingMessage, res: ServerResponse): void => {
    if (req.url === "/health/live") return void sendJson(req, res, 200, liveView);
    if (req.url === "/health/ready") return void this.sendReady(req, res);
    // It was meant for the leader that this instance was a moment ago.
    if (req.url?.startsWith(PEER_PATH)) return void sendJson(req, res, NOT_HERE, {});
    this.begin(req, res, null);
  };

  private begin(req: IncomingMessage, res: ServerResponse, body: Buffer | null): void {
    this.handOn(req, res, body).catch((error: unknown) => {
      req.resume();
      if (!(error instanceof RelayError)) this.log.warn({ err: error }, "a request could not be handed on");
      sendProblem(res, error instanceof RelayError ? error : new RelayError("holder-lost"));
    });
  }

  /** Those who wait are told that the lanes change hands; what is with the leader is cut off. */
  close(): void {
    this.wakeAll();
    this.agent.destroy();
  }

  private sendReady(req: IncomingMessage, res: ServerResponse): void {
    const { known } = this;
    const waitsFor = known ? [] : ["leader"];
    sendJson(req, res, known ? 200 : 503, { ready: known !== null, waitsFor, standsBy: true, leader: known?.name });
  }

  private async handOn(req: IncomingMessage, res: ServerResponse, body: Buffer | null): Promise<void> {
    // Handed to this instance as the leader, which it was a moment ago or is in a moment.
    const hop = req.headers[HOP_HEADER];
    if (hop !== undefined && (hopsOf(req) >= MOST_HOPS || !this.proof.isOurs(req, String(hop)))) throw changingHands();
    const giveUpAt = performance.now() + limits.leaderWithinMs;
    while (!res.destroyed) {
      if (performance.now() > giveUpAt) throw changingHands();
      const leader = this.known ?? (await this.nextLeader(giveUpAt));
      // Before it is handed anything: requests carry keys.
      if (!(await this.isProven(leader))) continue;
      if (await this.tryHandOn(leader, req, res, body)) return;
      // Nobody listens there any more: nothing of the request has left this instance.
      if (this.known === leader) this.known = null;
    }
  }

  /** @throws RelayError service-busy when something else answers there */
  private async isProven(leader: Instance): Promise<boolean> {
    if (this.proven === leader.address) return true;
    const isOurs = await provePeer(leader, this.proof, this.log);
    if (isOurs) this.proven = leader.address;
    // Nobody is there, or it is no instance: looked for again.
    else await this.lookAgain(leader.address);
    return isOurs;
  }

  /** Gone meanwhile: another one is waited for a moment, as where a connection could not be made. */
  private async lookAgain(address: string): Promise<void> {
    if (this.known?.address === address) this.known = null;
    await new Promise((resolve) => setTimeout(resolve, LOOK_AGAIN_MS / 5));
  }

  /** Waits until there is a leader. */
  private async nextLeader(giveUpAt: number): Promise<Instance> {
    if (this.waiting.size >= limits.forwarded) throw changingHands();
    while (!this.known) {
      const leftMs = giveUpAt - performance.now();
      if (leftMs <= 0) throw changingHands();
      await new Promise<void>((resolve) => {
        const wake = () => {
          clearTimeout(timer);
          this.waiting.delete(wake);
          resolve();
        };
        const timer = setTimeout(wake, Math.min(leftMs, LOOK_AGAIN_MS));
        this.waiting.add(wake);
      });
    }
    return this.known;
  }

  private wakeAll(): void {
    for (const wake of [...this.waiting]) wake();
  }

  /**
   * @returns false when it can be handed on again: no connection could be made, or there is nothing to do twice; true
   *   when it is being answered, or nobody is there any more to be answered
   * @throws RelayError holder-lost when the connection broke before there was an answer
   */
  private tryHandOn(
    leader: Instance,
    req: IncomingMessage,
    res: ServerResponse,
    body: Buffer | null,
  ): Promise<boolean> {
    return new Promise((resolve, reject) => {
      let sent = false;
      const isSafe = req.method === "GET" || req.method === "HEAD";
      const onward = request(new URL(req.url ?? "/", leader.address), {
        method: req.method ?? "GET",
        headers: this.onwardHeaders(req, body),
        agent: this.agent,
        setHost: false,
      });
      onward.once("socket", (socket) => {
        const send = () => {
          sent = true;
          if (body) onward.end(body);
          else req.pipe(onward);
        };
        if (socket.connecting) socket.once("connect", send);
        else send();
      });
      onward.once("response", (answer) => {
        res.writeHead(answer.statusCode ?? 502, withoutHop(answer.headers));
        answer.pipe(res);
        answer.once("error", () => res.destroy());
        resolve(true);
      });
      onward.once("error", (error) => {
        req.unpipe(onward);
        if (res.destroyed) return resolve(true);
        if (!sent || isSafe) return resolve(false);
        reject(new RelayError("holder-lost", {}, { cause: error }));
      });
      this.under.add(onward);
      onward.once("close", () => this.under.delete(onward));
      // Whoever asked has gone, so nobody waits for the answer.
      res.once("close", () => onward.destroy());
    });
  }

  private onwardHeaders(req: IncomingMessage, body: Buffer | null) {
    const from = req.socket.remoteAddress ?? "unknown";
    const before = req.headers["x-forwarded-for"];
    return {
      ...withoutHop(req.headers),
      ...(body ? { "content-length": String(body.length) } : {}),
      ...(req.headers["transfer-encoding"] && !body ? { "transfer-encoding": "chunked" } : {}),
      "x-forwarded-for": before ? `${String(before)}, ${from}` : from,
      [HOPS_HEADER]: String(hopsOf(req) + 1),
      [HOP_HEADER]: this.proof.forRequest(this.instance.name, req.method ?? "", req.url ?? ""),
    };
  }
}

/** Only of what an instance of ours has handed on. */
function hopsOf({ headers }: IncomingMessage): number {
  if (headers[HOP_HEADER] === undefined) return 0;
  const hops = Number(headers[HOPS_HEADER]);
  return Number.isInteger(hops) && hops > 0 ? hops : MOST_HOPS;
}

function withoutHop<Headers extends NodeJS.Dict<string | string[]>>(headers: Headers): NodeJS.Dict<string | string[]> {
  return Object.fromEntries(Object.entries(headers).filter(([name]) => !OF_ONE_HOP.includes(name)));
}

function sendJson(req: IncomingMessage, res: ServerResponse, status: number, body: object): void {
  req.resume();
  res.writeHead(status, { "content-type": "application/json" }).end(JSON.stringify(body));
}
