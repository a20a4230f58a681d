/** The listening socket. It opens at once and says what it waits for, until the parts behind it are joined. */
import { createServer, type IncomingMessage, type RequestListener, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import type { Duplex } from "node:stream";
import { RelayError } from "@bold-relay/core";
import type { Config } from "../platform/config/config.ts";
import { liveView } from "../platform/version.ts";
import { FairTurns } from "./fair-turns.ts";
import { sendProblem } from "./problem.ts";

/** Connections that are to speak another protocol. */
export interface UpgradeListener {
  /** Whether the request is for it; else it is answered as any other: a server may ignore what a client asks for (RFC 9110, 7.8). */
  isFor(req: IncomingMessage): boolean;
  /** @returns false: not any more, and the connection is closed */
  take(req: IncomingMessage, socket: Duplex, head: Buffer): boolean;
}

export interface HttpServer {
  readonly url: string;
  /** From now on this answers. @param upgrade left out: every request to change the protocol is ignored */
  serve(listener: RequestListener, upgrade?: UpgradeListener): void;
  /** Takes no new connection; resolves when those under way are answered. */
  close(): Promise<void>;
}

/** @throws Error when the address cannot be listened on, saying what to do */
export async function openHttpServer({
  host,
  port,
  secureCookies,
}: Pick<Config, "host" | "port" | "secureCookies">): Promise<HttpServer> {
  let serve: RequestListener = stillStarting;
  let upgrade: UpgradeListener = NO_UPGRADE;
  const settings = {
    ...{ requestTimeout: 30_000, headersTimeout: 10_000, maxHeaderSize: 16_384 },
    shouldUpgradeCallback: (req: IncomingMessage) => upgrade.isFor(req),
  };
  const turns = new FairTurns((req, res) => serve(req, res));
  const server = createServer(settings, (req, res) => {
    // What had been read of a connection before it was closed still comes.
    if (req.socket.destroyed) return;
    // With every answer, whoever gives it: a browser takes it for what it says that it is, and behind TLS asks for nothing else.
    res.setHeader("x-content-type-options", "nosniff");
    if (secureCookies) res.setHeader("strict-transport-security", "max-age=31536000");
    // The parser has let go of whatever came behind it in the same read: nobody shall wait for an answer to that.
    if (req.headers.upgrade !== undefined) res.setHeader("connection", "close");
    const problem = oddity(req);
    if (problem !== null) return refuseOdd(req, res, problem);
    turns.take(req, res);
  });
  server.keepAliveTimeout = 30_000;
  server.on("upgrade", (req, socket, head) => {
    if (!upgrade.take(req, socket, head)) socket.destroy();
  });
  await new Promise<void>((resolve, reject) => {
    server.once("error", (error: NodeJS.ErrnoException) => {
      const taken = `${host}:${port} is taken by another program. Stop it, or set BOLD_RELAY_PORT to a free port.`;
      reject(error.code === "EADDRINUSE" ? new Error(taken, { cause: error }) : error);
    });
    server.listen(port, host, resolve);
  });
  const { port: bound } = server.address() as AddressInfo;
  return {
    url: `http://${host.includes(":") ? `[${host}]` : host}:${bound}`,
    serve(listener, takeUpgrade = NO_UPGRADE) {
      serve = listener;
      upgrade = takeUpgrade;
    },
    close() {
      return new Promise((resolve) => {
        server.close(() => resolve());
        server.closeIdleConnections();
        // Live connections never end by themselves.
        setTimeout(() => server.closeAllConnections(), 500).unref();
      });
    },
  };
}

/** Longer than any filter of ours, characters: what looks for a route reads all of it. */
const LONGEST_ADDRESS = 4_096;

/** What no client of ours sends; null: nothing of the kind. */
function oddity({ url = "", rawHeaders }: IncomingMessage): string | null {
  if (url.length > LONGEST_ADDRESS) return `The address is longer than ${LONGEST_ADDRESS} characters`;
  let hosts = 0;
  for (let at = 0; at < rawHeaders.length; at += 2) if (rawHeaders[at]?.toLowerCase() === "host") hosts += 1;
  // A proxy might go by the one, and what looks for the caller's own pages by the other (RFC 9112, 3.2).
  return hosts > 1 ? "There is more than one Host header" : null;
}

function refuseOdd(req: IncomingMessage, res: ServerResponse, why: string): void {
  req.resume();
  sendProblem(res, new RelayError("bad-request", { why }));
}

const NO_UPGRADE: UpgradeListener = { isFor: () => false, take: () => false };

function stillStarting(req: IncomingMessage, res: ServerResponse): void {
  req.resume();
  if (req.url === "/health/live") {
    res.setHeader("content-type", "application/json").end(JSON.stringify(liveView));
  } else if (req.url === "/health/ready") {
    res.writeHead(503, { "content-type": "application/json" }).end('{"ready":false,"waitsFor":["database"]}');
  } else {
    sendProblem(res, new RelayError("service-busy", { why: "The service is starting and waits for the database" }));
  }
}
