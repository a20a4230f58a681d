/** Calls from one instance to another over their link: answered, refused, broken off, and with somebody on the way. */
import { createHash } from "node:crypto";
import { once } from "node:events";
import { connect, createServer, type Server, type Socket } from "node:net";
import { setImmediate as nextTurn } from "node:timers/promises";
import { RelayError } from "@bold-relay/core";
import { afterEach, expect, it } from "vitest";
import { WebSocket } from "ws";
import { type HttpServer, openHttpServer } from "../src/http-exchange/http-server.ts";
import { createLog } from "../src/index.ts";
import { type AnswerCall, LinkServer } from "../src/peers/link-server.ts";
import { PeerCalls } from "../src/peers/peer-calls.ts";
import { NobodyThere } from "../src/peers/peer-link.ts";
import { PeerProof } from "../src/peers/peer-proof.ts";
import { poll } from "./support/until.ts";

const PROOF = new PeerProof(Buffer.alloc(32, 7));
const OTHERS = new PeerProof(Buffer.alloc(32, 9));
const log = createLog("silent");
const ends: (() => unknown)[] = [];
afterEach(async () => {
  for (const end of ends.splice(0).reverse()) await end();
});

async function instance(answer: AnswerCall, proof = PROOF) {
  const server: HttpServer = await openHttpServer({ host: "127.0.0.1", port: 0, secureCookies: false });
  const links = new LinkServer(proof, log, answer);
  server.serve((req, res) => {
    const chunks: Buffer[] = [];
    req.on("data", (chunk: Buffer) => chunks.push(chunk));
    req.once("end", () => res.end(`${req.method} ${req.url} ${Buffer.concat(chunks)}`));
  }, links);
  ends.push(() => Promise.all([links.close(), server.close()]));
  return { server, links, peer: { name: "leader", address: server.url } };
}

function caller(proof = PROOF) {
  const calls = new PeerCalls("caller", proof, log);
  ends.push(() => calls.close());
  return calls;
}

/** What a call ends in: its answer, or the code of what it is refused with. */
const endOf = (call: Promise<unknown>) =>
  call.catch((error: unknown) =>
    error instanceof RelayError ? error.code : error instanceof NobodyThere ? "nobody there" : error,
  );

/** Answers only when told to. */
function onDemand() {
  const waiting = new Map<string, (answer: object) => void>();
  const answer: AnswerCall = (_, body) =>
    new Promise((resolve) => waiting.set((body as { name: string }).name, () => resolve({ answered: body })));
  return { waiting, answer };
}

const until = (what: () => boolean) => poll(async () => what(), Boolean);

/** Stands between two instances. @param alter gets what the caller sends, and how many chunks came before */
async function between(address: string, alter: (chunk: Buffer, index: number, onward: Socket) => Buffer) {
  const target = Number(new URL(address).port);
  const sockets: Socket[] = [];
  const server: Server = createServer((socket) => {
    const onward = connect(target, "127.0.0.1");
    sockets.push(socket, onward);
    let index = 0;
    socket.on("data", (chunk) => onward.write(alter(chunk, index++, onward)));
    onward.pipe(socket);
    for (const one of [socket, onward]) {
      one.on("error", () => {});
      one.once("close", () => (one === socket ? onward : socket).destroy());
    }
  }).listen(0, "127.0.0.1");
  await once(server, "listening");
  ends.push(() => {
    for (const socket of sockets) socket.destroy();
    server.close();
  });
  const { port } = server.address() as { port: number };
  return { address: `http://127.0.0.1:${port}`, cut: () => sockets.forEach((socket) => void socket.destroy()) };
}

it("many calls go over one connection, and each has its own answer, in whatever order they come", async () => {
  const { waiting, answer } = onDemand();
  const { server, peer } = await instance(answer);
  let connections = 0;
  const counted = await between(server.url, (chunk, index) => {
    if (index === 0) connections += 1;
    return chunk;
  });
  const calls = caller();
  const names = Array.from({ length: 500 }, (_, index) => `call ${index} ${"é".repeat(index % 7)}`);
  const all = names.map((name) => calls.call({ ...peer, address: counted.address }, "ask", { name }, 20_000));
  await until(() => waiting.size === names.length);
  for (const name of [...names].reverse()) waiting.get(name)?.({});
  expect(await Promise.all(all)).toEqual(names.map((name) => ({ answered: { name } })));
  expect(connections).toBe(1);
});

it("a refusal comes back as it was given, and what is not led there can be asked elsewhere", async () => {
  const { peer } = await instance(async (verb) => {
    if (verb === "refused") throw new RelayError("locked-out", { name: "the porch", by: "Ines" });
    return null;
  });
  const calls = caller();
  const refused = await calls.call(peer, "refused", {}, 5_000).catch((error: RelayError) => error);
  expect(refused).toMatchObject({ code: "locked-out", facts: { name: "the porch", by: "Ines" } });
  expect(await endOf(calls.call(peer, "elsewhere", {}, 5_000))).toBe("nobody there");
});

it("nothing is said to what does not prove that it is an instance of ours", async () => {
  const seen: string[] = [];
  const { peer } = await instance(async (verb) => {
    seen.push(verb);
    return {};
  }, OTHERS);
  expect(await endOf(caller().call(peer, "ask", {}, 5_000))).toBe("nobody there");
  // It takes whoever comes, and shows what it cannot know.
  const server = createServer((socket) => {
    socket.on("error", () => {});
    socket.on("data", (chunk) => {
      seen.push(chunk.toString());
      const key = /sec-websocket-key: (.*)\r\n/i.exec(chunk.toString())?.[1] ?? "";
      const accept = createHash("sha1").update(`${key}258EAFA5-E914-47DA-95CA-C5AB0DC85B11`).digest("base64");
      socket.write(
        `HTTP/1.1 101 Switching Protocols\r\nupgrade: websocket\r\nconnection: upgrade\r\nsec-websocket-accept: ${accept}\r\nbold-relay-link: ${"a".repeat(32)}.nonsense\r\n\r\n`,
      );
    });
  }).listen(0, "127.0.0.1");
  await once(server, "listening");
  ends.push(() => server.close());
  const { port } = server.address() as { port: number };
  const asked = caller().call({ name: "x", address: `http://127.0.0.1:${port}` }, "secret-verb", {}, 5_000);
  expect(await endOf(asked)).toBe("service-busy");
  expect(seen.join("")).not.toContain("secret-verb");
});

it("whoever has seen how a link was opened, and opens it once more, is not answered", async () => {
  const seen: string[] = [];
  const { server } = await instance(async (verb) => {
    seen.push(verb);
    return {};
  });
  const hop = PROOF.forRequest("caller", "GET", "/internal/link");
  const open = (headers: Record<string, string>) =>
    new WebSocket(`${server.url}/internal/link`.replace("http", "ws"), "bold-relay-link-1", { headers });
  const stranger = open({ "bold-relay-via": hop, "bold-relay-link": "a".repeat(32) });
  await once(stranger, "open");
  stranger.send(`${"A".repeat(43)}${JSON.stringify([{ id: 1, verb: "ask", body: {} }])}`);
  await once(stranger, "close");
  for (const headers of [{}, { "bold-relay-link": "a".repeat(32) }, { "bold-relay-via": hop }]) {
    const refused = open(headers as Record<string, string>);
    const [error] = await once(refused, "error");
    expect(error.message).toContain("403");
  }
  expect(seen).toEqual([]);
});

it("what both sides can speak is spoken, and an instance that speaks something else is not asked", async () => {
  const { server } = await instance(async () => ({}));
  const open = (...protocols: string[]) =>
    new WebSocket(`${server.url}/internal/link`.replace("http", "ws"), protocols, {
      headers: {
        "bold-relay-via": PROOF.forRequest("caller", "GET", "/internal/link"),
        "bold-relay-link": "a".repeat(32),
      },
    });
  const newer = open("bold-relay-link-9", "bold-relay-link-1");
  await once(newer, "open");
  expect(newer.protocol).toBe("bold-relay-link-1");
  newer.close();
  for (const protocols of [[], ["bold-relay-link-9"]]) {
    const [error] = await once(open(...protocols), "error");
    expect(error.message).toContain("426");
  }
  const other = createServer((socket) =>
    socket.once("data", () => socket.end("HTTP/1.1 426 Upgrade Required\r\ncontent-length: 0\r\n\r\n")),
  ).listen(0, "127.0.0.1");
  await once(other, "listening");
  ends.push(() => other.close());
  const { port } = other.address() as { port: number };
  const asked = caller().call({ name: "other", address: `http://127.0.0.1:${port}` }, "ask", {}, 5_000);
  expect(await endOf(asked)).toBe("nobody there");
});

it("a call that somebody alters on the way is not done, and nobody says that it was", async () => {
  const seen: string[] = [];
  const { server } = await instance(async (verb) => {
    seen.push(verb);
    return {};
  });
  // The first chunk opens the link. Flipping a bit of a masked WebSocket frame flips it in its text.
  const altered = await between(server.url, (chunk, index) => {
    if (index > 0 && chunk.length > 60) chunk[chunk.length - 3] = (chunk[chunk.length - 3] ?? 0) ^ 1;
    return chunk;
  });
  expect(await endOf(caller().call({ name: "leader", address: altered.address }, "ask", {}, 5_000))).toBe(
    "holder-lost",
  );
  expect(seen).toEqual([]);
});

it("a frame that somebody sends twice is done once", async () => {
  const seen: unknown[] = [];
  const { server } = await instance(async (_, body) => {
    seen.push(body);
    return {};
  });
  const repeating = await between(server.url, (chunk, index, onward) => {
    if (index > 0) onward.write(chunk);
    return chunk;
  });
  await endOf(caller().call({ name: "leader", address: repeating.address }, "ask", { turn: 1 }, 5_000));
  expect(seen).toEqual([{ turn: 1 }]);
});

it("what was called before the connection broke is unknown, what comes after is called anew", async () => {
  const { waiting, answer } = onDemand();
  const { server } = await instance(answer);
  const way = await between(server.url, (chunk) => chunk);
  const peer = { name: "leader", address: way.address };
  const calls = caller();
  const open = endOf(calls.call(peer, "ask", { name: "open" }, 20_000));
  await until(() => waiting.has("open"));
  way.cut();
  expect(await open).toBe("holder-lost");
  const again = calls.call(peer, "ask", { name: "again" }, 20_000);
  await until(() => waiting.has("again"));
  waiting.get("again")?.({});
  expect(await again).toEqual({ answered: { name: "again" } });
});

it("an instance that leaves answers what it was asked, and nothing new", async () => {
  const { waiting, answer } = onDemand();
  const { links, peer } = await instance(answer);
  const calls = caller();
  const before = calls.call(peer, "ask", { name: "before" }, 20_000);
  await until(() => waiting.has("before"));
  links.leave();
  expect(await endOf(calls.call(peer, "ask", { name: "after" }, 20_000))).toBe("nobody there");
  waiting.get("before")?.({});
  expect(await before).toEqual({ answered: { name: "before" } });
  await links.close();
  expect(links.unanswered).toBe(0);
});

it("nobody there, too late and too many are told apart", async () => {
  const { answer, waiting } = onDemand();
  const { peer } = await instance(answer);
  const calls = caller();
  expect(await endOf(calls.call({ name: "gone", address: "http://127.0.0.1:1" }, "ask", {}, 5_000))).toBe(
    "nobody there",
  );
  expect(await endOf(calls.call(peer, "ask", { name: "late" }, 1))).toBe("holder-lost");
  await until(() => waiting.has("late"));
  waiting.get("late")?.({});
  const all = Array.from({ length: 5_000 }, (_, index) => endOf(calls.call(peer, "ask", { name: `${index}` }, 20_000)));
  await until(() => waiting.size >= 4_096);
  for (const resolve of waiting.values()) resolve({});
  const found = await Promise.all(all);
  expect(found.filter((one) => one === "service-busy")).toHaveLength(5_000 - 4_096);
});

it("a caller that asks for another protocol is answered in this one", async () => {
  const { server } = await instance(async () => ({}));
  const { port } = new URL(server.url);
  const say = async (text: string, wanted: string) => {
    const socket = connect(Number(port), "127.0.0.1");
    let answered = "";
    socket.on("data", (chunk) => {
      answered += chunk;
    });
    // In two pieces: the body arrives after the connection was given back.
    const cut = text.length - 5;
    socket.write(text.slice(0, cut));
    await nextTurn();
    socket.write(text.slice(cut));
    await until(() => answered.includes(wanted));
    socket.destroy();
    return answered;
  };
  const upgrade = "connection: Upgrade, HTTP2-Settings\r\nupgrade: h2c\r\nhttp2-settings: AAMAAABkAAQAoAAAAAIAAAAA\r\n";
  await say(`GET /plain HTTP/1.1\r\nhost: a\r\n${upgrade}\r\n`, "GET /plain");
  const posted = `POST /in/web HTTP/1.1\r\nhost: a\r\n${upgrade}content-length: 11\r\n\r\nhello world`;
  const answered = await say(posted, "POST /in/web hello world");
  expect(answered).toContain("200 OK");
  // What a client would send behind it on the same connection is not read: it is told so.
  expect(answered.toLowerCase()).toContain("connection: close");
});
