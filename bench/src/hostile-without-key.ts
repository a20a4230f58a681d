/** What somebody without a key can do: bytes on connections, as many and as bad as one machine sends. */
import { connect, type Socket } from "node:net";
import { setTimeout as pause } from "node:timers/promises";

export interface AttackWithoutKey {
  readonly name: string;
  /** Once; resolves when it is over, however it ends. */
  readonly attack: (url: string) => Promise<void>;
}

/** So long the answers of one attack are waited for, ms. */
const OVER_MS = 400;

const request = (path: string, headers = "", method = "GET") =>
  `${method} ${path} HTTP/1.1\r\nhost: a\r\n${headers}\r\n`;
const UPGRADE = "connection: upgrade\r\nupgrade: ";

export const attacksWithoutKey: readonly AttackWithoutKey[] = [
  {
    name: "3 000 requests for HTTP/2 in one write",
    attack: flood(1, request("/api/v1/session", `${UPGRADE}h2c\r\n`).repeat(3_000)),
  },
  {
    name: "the same on four connections",
    attack: flood(4, request("/api/v1/session", `${UPGRADE}h2c\r\n`).repeat(3_000)),
  },
  { name: "3 000 plain requests in one write", attack: flood(1, request("/api/v1/session").repeat(3_000)) },
  { name: "16 requests in one write, on 200 connections", attack: flood(200, request("/api/v1/board").repeat(16)) },
  {
    name: "requests for WebSocket, on 300 connections",
    attack: flood(
      300,
      request(
        "/",
        `${UPGRADE}websocket\r\nsec-websocket-version: 13\r\nsec-websocket-key: AAAAAAAAAAAAAAAAAAAAAA==\r\n`,
      ),
    ),
  },
  { name: "15 kB of headers, on 200 connections", attack: flood(200, request("/", "x: y\r\n".repeat(2_500))) },
  { name: "headers that never end, on 500 connections", attack: flood(500, "GET / HTTP/1.1\r\nhost: a\r\nx: ") },
  { name: "1 000 connections that say nothing", attack: flood(1_000, "") },
  {
    name: "cookies of 15 kB, on 200 connections",
    attack: flood(200, request("/api/v1/board", `cookie: ${"a=b; ".repeat(3_000)}\r\n`)),
  },
  {
    name: "cookies of a session, made up",
    attack: flood(200, request("/api/v1/board", `cookie: relay_desk=${"x".repeat(43)}\r\n`)),
  },
  {
    name: "keys, made up",
    attack: flood(200, request("/api/v1/board", `authorization: Bearer ${"x".repeat(43)}\r\n`)),
  },
  {
    name: "ranges, on 200 connections",
    attack: flood(200, request("/", `range: bytes=${"0-1,".repeat(2_000)}0-1\r\n`)),
  },
  {
    name: "bodies that claim to be compressed",
    attack: flood(
      200,
      `${request("/api/v1/session", "content-type: application/json\r\ncontent-encoding: gzip\r\ncontent-length: 20\r\n", "POST")}${"x".repeat(20)}`,
    ),
  },
  {
    name: "bodies that never end, on 300 connections",
    attack: flood(
      300,
      `${request("/api/v1/session", "content-type: application/json\r\ncontent-length: 9999\r\n", "POST")}{`,
    ),
  },
  { name: "addresses of 15 kB of escapes", attack: flood(200, request(`/${"%41".repeat(5_000)}`)) },
  { name: "no HTTP at all", attack: flood(200, "\u0016\u0003\u0001".repeat(5_000)) },
];

/** Writes the same on many connections at once, and leaves when they have been answered for a while. */
function flood(connections: number, text: string): AttackWithoutKey["attack"] {
  return async (url) => {
    const { hostname, port } = new URL(url);
    const sockets: Socket[] = Array.from({ length: connections }, () => {
      const socket = connect(Number(port), hostname);
      socket.on("error", () => {}).on("data", () => {});
      socket.write(text, "latin1");
      return socket;
    });
    await Promise.race([
      Promise.all(sockets.map((socket) => new Promise((resolve) => socket.once("close", resolve)))),
      pause(OVER_MS),
    ]);
    for (const socket of sockets) socket.destroy();
  };
}
