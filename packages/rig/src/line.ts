/** A line to a server on loopback that can be made slow, stand still, or break: what lies between machines, on one machine. */
import { type AddressInfo, connect, createServer, type Socket } from "node:net";

export interface Line {
  readonly port: number;
  /** How long what is sent takes, in each direction, ms; `Infinity`: it stands still, and nothing is lost. */
  delayMs: number;
  stop(): Promise<void>;
}

/** What waits in one direction, in its order. */
interface Waiting {
  readonly dueAt: number;
  /** null: the end. */
  readonly bytes: Buffer | null;
}

const LOOK_EVERY_MS = 5;

/** @param target port of the server, looked at anew for each connection: it may be another one by then */
export async function startLine(target: () => number): Promise<Line> {
  const open = new Set<Socket>();
  const line: Line = { port: 0, delayMs: 0, stop };

  const server = createServer((incoming) => {
    const onward = connect({ host: "127.0.0.1", port: target(), noDelay: true });
    incoming.setNoDelay(true);
    for (const [from, to] of [
      [incoming, onward],
      [onward, incoming],
    ] as const) {
      open.add(from);
      carry(from, to, line);
      from.once("close", () => {
        open.delete(from);
        to.destroy();
      });
    }
  });
  await new Promise<void>((resolve) => {
    server.listen(0, "127.0.0.1", resolve);
  });
  return Object.assign(line, { port: (server.address() as AddressInfo).port });

  function stop(): Promise<void> {
    for (const socket of open) socket.destroy();
    return new Promise((resolve) => {
      server.close(() => resolve());
    });
  }
}

/** Writes to the other end what comes from this one, so much later as the line is slow at that moment. */
function carry(from: Socket, to: Socket, line: Line): void {
  const waiting: Waiting[] = [];
  let timer: NodeJS.Timeout | null = null;
  const flush = () => {
    const now = performance.now();
    while (waiting[0] !== undefined && line.delayMs !== Number.POSITIVE_INFINITY && waiting[0].dueAt <= now) {
      const { bytes } = waiting.shift() as Waiting;
      if (bytes === null) to.end();
      else to.write(bytes);
    }
    if (waiting.length > 0) return;
    if (timer) clearInterval(timer);
    timer = null;
  };
  const send = (bytes: Buffer | null) => {
    if (line.delayMs === 0 && waiting.length === 0) {
      if (bytes === null) to.end();
      else to.write(bytes);
      return;
    }
    const delayMs = Number.isFinite(line.delayMs) ? line.delayMs : 0;
    waiting.push({ dueAt: performance.now() + delayMs, bytes });
    timer ??= setInterval(flush, LOOK_EVERY_MS);
  };
  from.on("data", send);
  from.on("end", () => send(null));
  from.on("error", () => to.destroy());
  from.once("close", () => {
    if (timer) clearInterval(timer);
  });
}
