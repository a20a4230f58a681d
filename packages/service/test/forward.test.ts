/** Handing requests on, against a holder that misbehaves on demand. */
import { once } from "node:events";
import { createServer, type IncomingMessage, request, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { createLog } from "../src/index.ts";
import { amongPeers, proving } from "../src/peers/among-peers.ts";
import { Forward } from "../src/peers/forward.ts";
import { PeerProof } from "../src/peers/peer-proof.ts";
import { poll } from "./support/until.ts";

const PROOF = new PeerProof(Buffer.alloc(32, 7));
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
  const forward = new Forward({ name: "standby", address: "http://127.0.0.1:1" }, createLog("silent"), PROOF);
  const holder = { name: "holder", address: await listen(proving(PROOF, "run", amongPeers(PROOF, answer))) };
  forward.leader = holder;
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
    expect([forward.leader, heard.map(({ method }) => method)]).toEqual([holder, ["GET", "POST"]]);
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
      async () => forward.leader,
      (known) => known === null,
    );
    forward.leader = holder;
    expect([await (await read).text(), calls]).toEqual(["answered", 3]);
  });
});

describe("an instance", () => {
  it("hands nothing to whoever answers at the holder's address and is none of this installation", async () => {
    const heard: IncomingMessage[] = [];
    const forward = new Forward({ name: "standby", address: "http://127.0.0.1:1" }, createLog("silent"), PROOF);
    forward.leader = {
      name: "impostor",
      address: await listen((req, res) => {
        heard.push(req);
        res.end(JSON.stringify({ answer: "x".repeat(43) }));
      }),
    };
    const url = await listen(forward.serve);
    const answer = await fetch(`${url}/api/v1/requests`, {
      method: "POST",
      headers: { authorization: "Bearer brk_x" },
    });
    expect(answer.status).toBe(503);
    expect(heard.every(({ headers }) => headers.authorization === undefined)).toBe(true);
  });

  it("takes nothing that says that it was handed on by one and was not", async () => {
    const served: string[] = [];
    const url = await listen(
      amongPeers(PROOF, (req, res) => {
        served.push(req.url ?? "");
        res.end();
      }),
    );
    const stranger = new PeerProof(Buffer.alloc(32, 8));
    const call = async (hop: string, path = "/x") =>
      (await fetch(`${url}${path}`, { headers: { "bold-relay-via": hop } })).status;
    expect([
      await call("standby"),
      await call(stranger.forRequest("standby", "GET", "/x")),
      await call(PROOF.forRequest("standby", "GET", "/x", Date.now() - 120_000)),
      await call(PROOF.forRequest("standby", "POST", "/x")),
      await call(PROOF.forRequest("standby", "GET", "/other")),
      await call(PROOF.forRequest("standby", "GET", "/x")),
    ]).toEqual([403, 403, 403, 403, 403, 200]);
    expect(served).toEqual(["/x"]);
  });
});
