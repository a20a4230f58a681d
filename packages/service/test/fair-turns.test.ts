/** One connection does not hold up the others: pipelined floods, requests for other protocols, many at once. */
import { createServer } from "node:http";
import { connect, type Socket } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { FairTurns } from "../src/http-exchange/fair-turns.ts";
import { type HttpServer, openHttpServer } from "../src/http-exchange/http-server.ts";

const closing: (() => Promise<unknown>)[] = [];
afterEach(async () => {
  for (const close of closing.splice(0)) await close();
});

async function listening(): Promise<{ server: HttpServer; served: string[]; port: number }> {
  const server = await openHttpServer({ host: "127.0.0.1", port: 0, secureCookies: false });
  const served: string[] = [];
  server.serve((req, res) => {
    served.push(req.url ?? "");
    setImmediate(() => res.end("ok"));
  });
  closing.push(() => server.close());
  return { server, served, port: Number(new URL(server.url).port) };
}

/** Everything that is answered until the connection ends. */
function exchanged(port: number, text: string): Promise<string> {
  const socket: Socket = connect(port, "127.0.0.1");
  closing.push(async () => socket.destroy());
  return new Promise((resolve) => {
    let answered = "";
    socket.on("data", (chunk) => {
      answered += chunk;
    });
    socket.on("error", () => {});
    socket.on("close", () => resolve(answered));
    socket.write(text);
  });
}

describe("a connection with thousands of requests at once", () => {
  it.each([
    ["plain ones", ""],
    ["that ask for HTTP/2", "connection: upgrade\r\nupgrade: h2c\r\n"],
    ["that ask for WebSocket", "connection: upgrade\r\nupgrade: websocket\r\n"],
    ["that would send a body", "content-length: 0\r\n"],
  ])("%s is closed, and serves no more than few", async (_kind, headers) => {
    const { served, port } = await listening();
    await exchanged(port, `GET /x HTTP/1.1\r\nhost: a\r\n${headers}\r\n`.repeat(3_000));
    expect(served.length).toBeLessThanOrEqual(16);
  });

  it("and one with a few is answered in order", async () => {
    const { port } = await listening();
    const few = Array.from({ length: 8 }, (_, at) => `GET /${at} HTTP/1.1\r\nhost: a\r\n\r\n`).join("");
    const answered = await exchanged(port, `${few}GET /last HTTP/1.1\r\nhost: a\r\nconnection: close\r\n\r\n`);
    expect(answered.match(/200 OK/g)).toHaveLength(9);
  });
});

it("what asks for another protocol is answered as any other request", async () => {
  const { served, port } = await listening();
  const answered = await exchanged(
    port,
    "GET /a HTTP/1.1\r\nhost: a\r\nconnection: upgrade, close\r\nupgrade: h2c\r\n\r\n",
  );
  expect([answered.includes("200 OK"), served]).toEqual([true, ["/a"]]);
});

it("connections are served in rotation, and a turn of the event loop ends after some ms", async () => {
  let now = 0;
  const turnsToCome: (() => void)[] = [];
  const order: string[] = [];
  const turns = new FairTurns(
    (req, res) => {
      order.push(req.url ?? "");
      // Each takes 3 ms of a turn.
      now += 3;
      res.end();
    },
    { now: () => now, nextTurn: (work) => void turnsToCome.push(work) },
  );
  const server = createServer(turns.take);
  await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
  closing.push(async () => void server.close());
  const address = server.address();
  const port = typeof address === "object" && address ? address.port : 0;
  const ask = (name: string, many: number) => {
    const socket = connect(port, "127.0.0.1");
    closing.push(async () => socket.destroy());
    socket.on("error", () => {});
    socket.write(Array.from({ length: many }, (_, at) => `GET /${name}${at} HTTP/1.1\r\nhost: a\r\n\r\n`).join(""));
    return new Promise<void>((resolve) => server.once("connection", () => setTimeout(resolve, 20)));
  };
  await ask("greedy", 10);
  expect(order).toEqual(["/greedy0", "/greedy1", "/greedy2"]);
  await ask("modest", 1);
  const next = () => turnsToCome.shift()?.();
  next();
  expect(order.slice(3)).toEqual(["/greedy3", "/modest0", "/greedy4"]);
  next();
  expect(order.slice(6)).toEqual(["/greedy5", "/greedy6", "/greedy7"]);
});
