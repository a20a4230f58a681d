/** The listening socket. It opens at once and says what it waits for, until the parts behind it are joined. */
import { createServer, type IncomingMessage, type RequestListener, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import type { Duplex } from "node:stream";
import { RelayError } from "@bold-relay/core";
import type { Config } from "../platform/config/config.ts";
import { liveView } from "../platform/version.ts";
import { sendProblem } from "./problem.ts";

/** @returns whether the connection speaks another protocol from now on; else the request is answered as any other */
export type UpgradeListener = (req: IncomingMessage, socket: Duplex, head: Buffer) => boolean;

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
  let upgrade: UpgradeListener = ignoreUpgrade;
  const server = createServer({ requestTimeout: 30_000, headersTimeout: 10_000, maxHeaderSize: 16_384 }, (req, res) => {
    // With every answer, whoever gives it: a browser takes it for what it says that it is, and behind TLS asks for nothing else.
    res.setHeader("x-content-type-options", "nosniff");
    if (secureCookies) res.setHeader("strict-transport-security", "max-age=31536000");
    serve(req, res);
  });
  server.keepAliveTimeout = 30_000;
  server.on("upgrade", (req, socket, head) => {
    if (!upgrade(req, socket, head)) readAgain(server, req, socket, head);
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
    serve(listener, takeUpgrade = ignoreUpgrade) {
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

const ignoreUpgrade: UpgradeListener = () => false;

/**
 * A server may ignore what another protocol is asked for (RFC 9110, 7.8), as some clients ask for HTTP/2 in every request. Node.js has
 * let go of the connection by then: what it has read is put back without these headers, and read once more.
 */
function readAgain(server: Server, { method, url, rawHeaders }: IncomingMessage, socket: Duplex, head: Buffer): void {
  const lines = [`${method} ${url} HTTP/1.1`];
  for (let at = 0; at < rawHeaders.length; at += 2) {
    const name = rawHeaders[at] ?? "";
    if (!/^(?:upgrade|connection|http2-settings)$/i.test(name)) lines.push(`${name}: ${rawHeaders[at + 1]}`);
  }
  socket.unshift(Buffer.concat([Buffer.from(`${lines.join("\r\n")}\r\n\r\n`, "latin1"), head]));
  server.emit("connection", socket);
}

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
