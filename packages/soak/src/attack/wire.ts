/** Bytes to an installation as they are, and what it answers: attacks are made of what no HTTP client would send. */
import { connect, type Socket } from "node:net";
import { connect as connectTls } from "node:tls";

export interface Target {
  /** Without a path. */
  readonly url: string;
  /** A key of a member; null: only attacks without one are tried. */
  readonly key: string | null;
}

export interface Answered {
  /** Of each answer on the connection, in order; empty: it was closed without one. */
  readonly statuses: readonly number[];
  readonly text: string;
}

const PATIENCE_MS = 10_000;

/** Sends these bytes on one connection and reads until the other side closes it, or for ten seconds. */
export function sendRaw({ url }: Target, bytes: string | Buffer): Promise<Answered> {
  const { hostname, port, protocol } = new URL(url);
  const secure = protocol === "https:";
  const place = { host: hostname, port: Number(port || (secure ? 443 : 80)) };
  const socket: Socket = secure
    ? connectTls({ ...place, servername: hostname, rejectUnauthorized: false })
    : connect(place);
  return new Promise((resolve) => {
    const chunks: Buffer[] = [];
    const end = () => {
      socket.destroy();
      const text = Buffer.concat(chunks).toString("latin1");
      resolve({ text, statuses: [...text.matchAll(/^HTTP\/1\.1 (\d{3})/gm)].map(([, status]) => Number(status)) });
    };
    socket.setTimeout(PATIENCE_MS, end);
    socket.on("data", (chunk: Buffer) => chunks.push(chunk));
    socket.on("close", end);
    socket.on("error", end);
    socket.write(bytes);
  });
}

/** A call with these lines in its head, then closed. @param line "GET /api/v1/board" */
export function callRaw(target: Target, line: string, head: readonly string[] = [], body = ""): Promise<Answered> {
  const { host } = new URL(target.url);
  const named = head.some((one) => /^host:/i.test(one)) ? head : [`Host: ${host}`, ...head];
  const length = body === "" ? [] : [`Content-Length: ${Buffer.byteLength(body)}`];
  return sendRaw(target, [`${line} HTTP/1.1`, ...named, ...length, "Connection: close", "", body].join("\r\n"));
}

/** The same with the key, and a body as JSON. */
export function callWithKey(target: Target, line: string, body?: object): Promise<Answered> {
  const text = body === undefined ? "" : JSON.stringify(body);
  return callRaw(target, line, [`Authorization: Bearer ${target.key}`, "Content-Type: application/json"], text);
}
