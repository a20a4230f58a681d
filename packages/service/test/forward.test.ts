/** Handing requests on, against a holder that misbehaves on demand. */
import { once } from "node:events";
import { createServer, type IncomingMessage, request, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { Forward } from "../src/holder/forward.ts";
import { createLog } from "../src/index.ts";
import { poll } from "./support/until.ts";

const servers: Server[] = [];
afterEach(() => {
  for (const server of servers.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
});

async function listen(answer: (req: IncomingMessage, res: ServerResponse) => void): Promise<string> {
  const server = createServer(answer).listen(0, "127.0.0.1");
  servers.push(server);
  await once(server, "listening");
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
}

/** An instance that stands by, with this holder. */
async function standBy(answer: (req: IncomingMessage, res: ServerResponse) => void) {
  const forward = new Forward({ name: "standby", address: "http://127.0.0.1:1" }, createLog("silent"));
  const holder = { name: "holder", address: await listen(answer) };
  forward.holder = holder;
  return { forward, holder, url: await listen(forward.serve) };
}

describe("a request that is handed on", () => {
  it("whose caller goes away is let go of, and says nothing of the holder", async () => {
    const heard: IncomingMessage[] = [];
    const { forward, holder, url } = await standBy((req) => void heard.push(req));
    const call = request(`${url}/api/v1/board`).end();
    call.once("error", () => {});
    await poll(
      async () => heard.length,
      (count) => count === 1,
    );
    const gone = heard[0] && once(heard[0].socket, "close");
    call.destroy();
    await gone;
    // Whoever asks next is not kept waiting for a holder that never went.
    const next = request(`${url}/api/v1/requests`, { method: "POST" }).end();
    next.once("error", () => {});
    await poll(
      async () => heard.map(({ method }) => method),
      (methods) => methods.includes("POST"),
    );
    next.destroy();
    expect([forward.holder, heard.map(({ method }) => method)]).toEqual([holder, ["GET", "POST"]]);
  });

  it("that the holder breaks off is told so, or handed on again where it only reads", async () => {
    let calls = 0;
    const { forward, holder, url } = await standBy((req, res) => {
      calls += 1;
      if (calls <= 2) req.socket.destroy();
      else res.end("answered");
    });
    const asked = await fetch(`${url}/api/v1/requests`, { method: "POST", body: "{}" });
    expect([asked.status, (await asked.json()).code, calls]).toEqual([503, "holder-lost", 1]);
    const read = fetch(`${url}/api/v1/board`);
    await poll(
      async () => forward.holder,
      (known) => known === null,
    );
    forward.holder = holder;
    expect([await (await read).text(), calls]).toEqual(["answered", 3]);
  });
});
