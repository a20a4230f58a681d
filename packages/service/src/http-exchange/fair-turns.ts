/**
 * Requests by turns. Node.js hands over all requests that one read of a socket brings, one after the other: thousands of small ones would
 * hold everybody up. Here a turn of the event loop serves requests for a few ms, connections in rotation, and the next turn goes on.
 */
import type { IncomingMessage, RequestListener, ServerResponse } from "node:http";
import type { Socket } from "node:net";

/** So long one turn of the event loop serves requests, ms. */
const TURN_MS = 8;
/** Requests of one connection without an answer. Browsers send one at a time (RFC 9112, 9.3.2 lets them send more). */
const MOST_PIPELINED = 16;
/** Requests that wait for their turn, of all connections. */
const MOST_WAITING = 4_000;

interface Waiting {
  readonly req: IncomingMessage;
  readonly res: ServerResponse;
}

export class FairTurns {
  private readonly serve: RequestListener;
  private readonly now: () => number;
  private readonly nextTurn: (work: () => void) => void;
  /** Requests without an answer, by connection. */
  private readonly open = new WeakMap<Socket, number>();
  /** In rotation: the connection that was served last is the last. */
  private readonly waiting = new Map<Socket, Waiting[]>();
  private count = 0;
  private spentMs = 0;
  private isTurnOver = true;

  /** @param clock of the event loop; left out: the real one */
  constructor(
    serve: RequestListener,
    clock: { now: () => number; nextTurn: (work: () => void) => void } = {
      now: () => performance.now(),
      nextTurn: setImmediate,
    },
  ) {
    this.serve = serve;
    this.now = clock.now;
    this.nextTurn = clock.nextTurn;
  }

  /** Serves a request, at once where this turn has time left. A connection that asks for too much at once is closed. */
  readonly take = (req: IncomingMessage, res: ServerResponse): void => {
    const { socket } = req;
    if (socket.destroyed) return;
    const open = (this.open.get(socket) ?? 0) + 1;
    if (open > MOST_PIPELINED) return this.end(socket);
    if (this.count >= MOST_WAITING) this.endGreediest();
    this.open.set(socket, open);
    res.once("close", () => this.open.set(socket, (this.open.get(socket) ?? 1) - 1));
    this.beginTurn();
    if (this.count === 0 && this.spentMs < TURN_MS) this.run({ req, res });
    else this.wait({ req, res });
  };

  private beginTurn(): void {
    if (!this.isTurnOver) return;
    this.isTurnOver = false;
    this.nextTurn(() => {
      this.isTurnOver = true;
      this.spentMs = 0;
      this.serveWaiting();
    });
  }

  private wait(one: Waiting): void {
    const { socket } = one.req;
    const queue = this.waiting.get(socket);
    if (queue) queue.push(one);
    else this.waiting.set(socket, [one]);
    this.count += 1;
  }

  private serveWaiting(): void {
    if (this.count === 0) return;
    this.beginTurn();
    while (this.count > 0 && this.spentMs < TURN_MS) {
      const [next] = this.waiting;
      if (!next) return;
      const [socket, queue] = next;
      this.waiting.delete(socket);
      const one = queue.shift();
      if (queue.length > 0) this.waiting.set(socket, queue);
      this.count -= 1;
      if (one && !socket.destroyed) this.run(one);
    }
  }

  private run({ req, res }: Waiting): void {
    const startedAt = this.now();
    this.serve(req, res);
    this.spentMs += this.now() - startedAt;
  }

  /** Where too much waits, the connection with most of it makes room. */
  private endGreediest(): void {
    const [first] = this.waiting;
    if (!first) return;
    let [greediest, most] = first;
    for (const [socket, queue] of this.waiting) if (queue.length > most.length) [greediest, most] = [socket, queue];
    this.end(greediest);
  }

  private end(socket: Socket): void {
    this.count -= this.waiting.get(socket)?.length ?? 0;
    this.waiting.delete(socket);
    socket.destroy();
  }
}
