/**
 * A right that is taken away between the look at it and its effect. From the attacker's aim: a call is begun while one may, and ends when
 * one may not any more. Every operation that changes something, by each way in which a right ends.
 */
import { randomBytes } from "node:crypto";
import { connect } from "node:net";
import { effectOf, recentSignInOf } from "@bold-relay/api/schema";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import type { RouteName } from "../src/http/permissions.ts";
import { newKey, saveKey, sha256 } from "../src/index.ts";
import { createNeighbours, type Neighbours } from "./support/neighbours.ts";
import { type Call, operationTries, type Try } from "./support/operation-tries.ts";
import { poll } from "./support/until.ts";

let near: Neighbours;
const tries = operationTries(() => near);

beforeAll(async () => {
  near = await createNeighbours();
});
afterAll(() => near.stop());

interface Victim {
  readonly id: number;
  readonly headers: Readonly<Record<string, string>>;
}

/** How a right ends, as SQL of what ends it. */
const ENDINGS = {
  "their role is taken away": "update member set role = null where id = $1",
  "they become a reader": "update member set role = 'reader' where id = $1",
  "they are removed": "delete from member where id = $1",
  "their key is revoked": "update api_key set revoked_at = now() where member_id = $1",
  "their session ends": "delete from session where member_id = $1",
} as const;
type Ending = keyof typeof ENDINGS;

let serial = 0;

/** Somebody who may do everything, by what the ending ends. */
async function victim(name: RouteName, ending: Ending, by?: "session"): Promise<Victim> {
  serial += 1;
  const { pool } = near.world;
  const { rows } = await pool.query<{ id: number }>(
    "insert into member (name, password_hash, role) values ($1, 'none', 'owner') returning id",
    [`Victim ${serial}`],
  );
  const id = rows[0]?.id ?? 0;
  if (ending !== "their session ends" && recentSignInOf(name) === null && by === undefined && serial % 2 === 0) {
    const key = newKey();
    await saveKey(pool, { name: "victim", tokenSha256: sha256(key), memberId: id });
    return { id, headers: { authorization: `Bearer ${key}` } };
  }
  if (ending === "their key is revoked") return victim(name, ending);
  const token = randomBytes(32).toString("base64url");
  await pool.query(
    "insert into session (token_sha256, member_id, expires_at) values ($1, $2, now() + interval '1 hour')",
    [sha256(token), id],
  );
  return { id, headers: { cookie: `relay_desk=${token}`, origin: near.world.service.url } };
}

const headersFor = (method: string, who: Victim) => ({
  ...who.headers,
  "content-type": method === "PATCH" ? "application/merge-patch+json" : "application/json",
  "if-match": "*",
});

/** Who waits for a lock: of this database, for others are tested on the same server. */
const WAITING = `select from pg_locks l join pg_stat_activity a on a.pid = l.pid
  where not l.granted and a.datname = current_database()`;

/** Begins the call while its transaction must wait for the end of the right, and ends that. */
async function refusedInTransaction(name: RouteName, { path, body }: Call, ending: Ending): Promise<number> {
  const [method = ""] = name.split(" ");
  const who = await victim(name, ending);
  const client = await near.world.pool.connect();
  try {
    await client.query("begin");
    await client.query(ENDINGS[ending], [who.id]);
    const answering = fetch(`${near.world.service.url}/api/v1${path}`, {
      method,
      headers: headersFor(method, who),
      ...(body === undefined ? {} : { body: JSON.stringify(body) }),
    });
    let isOver = false;
    void answering.then(() => {
      isOver = true;
    });
    await poll(
      async () => (await near.world.pool.query(WAITING)).rowCount ?? 0,
      (waiting) => waiting > 0 || isOver,
      { what: `${name} waiting for the right` },
    );
    const wasOver = isOver;
    await client.query("commit");
    if (wasOver) expect.fail(`${name} was over before it was stored: ${await (await answering).text()}`);
    const answer = await answering;
    await answer.body?.cancel();
    return answer.status;
  } finally {
    client.release();
  }
}

const NOTED = "select from session where member_id = $1 and seen_at > now() - interval '1 minute'";

/** Sends all but the end of the body, then takes the right away, then sends the rest. */
async function refusedAfterBody(name: RouteName, { path, body }: Call, ending: Ending): Promise<number> {
  const [method = ""] = name.split(" ");
  const who = await victim(name, ending, "session");
  const { hostname, port } = new URL(near.world.service.url);
  const text = JSON.stringify(body);
  const headers = {
    host: `${hostname}:${port}`,
    ...headersFor(method, who),
    "content-length": Buffer.byteLength(text),
    connection: "close",
  };
  // Its use is noted when the guard reads it.
  await near.world.pool.query("update session set seen_at = now() - interval '5 minutes' where member_id = $1", [
    who.id,
  ]);
  const socket = connect(Number(port), hostname);
  const lines = Object.entries(headers).map(([field, value]) => `${field}: ${value}\r\n`);
  socket.write(`${method} /api/v1${path} HTTP/1.1\r\n${lines.join("")}\r\n${text.slice(0, 1)}`);
  await poll(
    async () => (await near.world.pool.query(NOTED, [who.id])).rowCount ?? 0,
    (noted) => noted > 0,
  );
  // The service has heard what the database answered: it answers this after it.
  await (await fetch(`${near.world.service.url}/health/live`)).arrayBuffer();
  await near.world.pool.query(ENDINGS[ending], [who.id]);
  socket.write(text.slice(1));
  const chunks: Buffer[] = [];
  for await (const chunk of socket) chunks.push(chunk as Buffer);
  return Number(/^HTTP\/1\.1 (\d+)/.exec(Buffer.concat(chunks).toString())?.[1]);
}

const changing = ([name]: readonly [string, unknown]) => effectOf(name as RouteName) !== null;
const rows = [
  ...Object.entries(tries.ofPlace),
  ...Object.entries(tries.ofTeam),
  ...Object.entries(tries.anywhere),
].filter(changing) as [RouteName, Try][];

describe("in the transaction that stores it", () => {
  const stored = rows.filter(
    // These ask for what is so already: nothing is stored.
    ([name]) => effectOf(name) === "stored" && !["PUT /cluster/leader", "PUT /sites/:site/shard"].includes(name),
  );
  const ways = Object.keys(ENDINGS) as Ending[];
  const wayOf = (name: RouteName, index: number): Ending => {
    const way = ways[index % ways.length] as Ending;
    return way === "their key is revoked" && recentSignInOf(name) !== null ? "their session ends" : way;
  };
  it.each(stored.map(([name, make], index) => [name, wayOf(name, index), make] as const))(
    "%s is refused when %s",
    async (name, ending, make) => {
      const { path, body } = await make("own");
      // What is as it was is stored nowhere.
      const call =
        name === "PUT /sites/:site/description" ? { path, body: { ...(body as object), name: "New" } } : { path, body };
      expect([401, 403]).toContain(await refusedInTransaction(name, call, ending));
    },
  );
});

describe("after the body has been read", () => {
  it.each(rows.map(([name, make]) => [name, make] as const))("%s", async (name, make) => {
    const call = await make("own");
    // Some calls take a body and look at none.
    if (call.body === undefined || Object.keys(call.body as object).length === 0) return;
    for (const ending of ["they become a reader", "their session ends"] as const)
      expect([401, 403]).toContain(await refusedAfterBody(name, call, ending));
  });
});
