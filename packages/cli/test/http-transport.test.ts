/** How the command line reaches the service: what it makes of answers that are whole, broken off, or not the service's. */
import { createServer, type RequestListener, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { createClient, ProblemError, UnreachableError } from "@bold-relay/api";
import { afterEach, expect, it } from "vitest";
import { httpTransport } from "../src/http-transport.ts";

let server: Server | undefined;
afterEach(() => server?.close());

async function answering(listener: RequestListener) {
  server = createServer(listener).listen(0, "127.0.0.1");
  await new Promise((resolve) => server?.once("listening", resolve));
  const { port } = server.address() as AddressInfo;
  return createClient({ baseUrl: `http://127.0.0.1:${port}`, key: "brk_1", transport: httpTransport });
}

it("sends method, key and body, and reads the answer", async () => {
  const heard: object[] = [];
  const client = await answering(async (req, res) => {
    const pieces: Buffer[] = [];
    for await (const piece of req) pieces.push(piece);
    const { authorization, prefer, "content-length": length } = req.headers;
    heard.push({ method: req.method, authorization, prefer, length, body: Buffer.concat(pieces).toString() });
    res.end(JSON.stringify({ id: "1", outcome: "delivered" }));
  });
  expect(await client.ask({ target: "löwe", action: "on" }, { waitS: 5 })).toMatchObject({ outcome: "delivered" });
  const body = '{"target":"löwe","action":"on"}';
  const length = String(Buffer.byteLength(body));
  expect(heard).toEqual([{ method: "POST", authorization: "Bearer brk_1", prefer: "wait=5", length, body }]);
});

it("passes a problem on with its code and when to come again", async () => {
  const client = await answering((_req, res) => {
    res.writeHead(503, { "content-type": "application/problem+json", "retry-after": "7" });
    res.end(JSON.stringify({ code: "service-busy", status: 503, detail: "Later." }));
  });
  const error = await client.status().catch((error: unknown) => error);
  expect(error).toBeInstanceOf(ProblemError);
  expect(error).toMatchObject({ retryAfterS: 7, problem: { code: "service-busy" } });
});

it.each<[string, RequestListener]>([
  ["a page of something in between", (_req, res) => void res.end("<html>Welcome</html>")],
  ["an error without problem details", (_req, res) => void res.writeHead(502).end("Bad gateway")],
  [
    "an answer that breaks off",
    (_req, res) => {
      res.writeHead(200, { "content-length": "100" });
      res.write('{"id":', () => res.destroy());
    },
  ],
  ["no answer", (req) => void req.destroy()],
])("counts %s as unreachable", async (_what, listener) => {
  const client = await answering(listener);
  await expect(client.status()).rejects.toBeInstanceOf(UnreachableError);
});

it("reads events as they come, until it is told to stop", async () => {
  const client = await answering((_req, res) => {
    res.writeHead(200, { "content-type": "text/event-stream" });
    res.write('id: 1\nevent: hello\ndata: {"at":"now","resumed":false}\n\n');
  });
  const stop = new AbortController();
  const heard = await new Promise((resolve) => {
    client.live((event, id) => resolve([event.name, id]), stop.signal).catch(() => {});
  });
  stop.abort();
  expect(heard).toEqual(["hello", "1"]);
});

it("says what answered instead of the service, and where it points", async () => {
  const client = await answering((_req, res) => void res.writeHead(301, { location: "https://relay.test/" }).end());
  await expect(client.status()).rejects.toThrow(/answered with HTTP 301, to https:\/\/relay\.test\/\./);
});
