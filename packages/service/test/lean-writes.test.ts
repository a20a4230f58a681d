/** One row alone is written in another way than a group: the same must be kept, and the proof of the lease must hold in both. */
import { randomUUID } from "node:crypto";
import type { Command } from "@bold-relay/core";
import pg from "pg";
import { afterAll, beforeAll, beforeEach, expect, it } from "vitest";
import { newId } from "../src/platform/id.ts";
import { acceptRequests } from "../src/store/accept-requests.ts";
import type { AcceptRow } from "../src/store/accept-rows.ts";
import { KnownWords } from "../src/store/asked-words.ts";
import { isLeaseLost } from "../src/store/leases.ts";
import { settleCommands } from "../src/store/settle-commands.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let channelId: number;
let epoch: number;

beforeAll(async () => {
  world = await createWorld();
  // Its writer is done: what follows plays the leader on the same lease.
  await world.service.stop();
  channelId = (await world.pool.query<{ id: number }>("select id from channel order by id limit 1")).rows[0]?.id ?? 0;
});
afterAll(() => world.stop());
beforeEach(async () => {
  const { rows } = await world.pool.query<{ epoch: string }>("update lease set epoch = epoch + 1 returning epoch");
  epoch = Number(rows[0]?.epoch);
});

function arrival(more: Partial<AcceptRow> = {}): AcceptRow {
  const command = {
    id: newId(),
    channelId,
    to: "on",
    urgent: true,
    forMs: 4_000,
    clearWithinMs: 200,
    blocked: null,
    deadline: null,
  };
  return {
    id: newId(),
    askedAt: Date.parse("2026-11-28T09:00:00.123Z"),
    requester: "inlet",
    memberId: null,
    inlet: "hall-tablet",
    asker: "O'Brien \\ „Tür“",
    keyId: null,
    session: null,
    target: "porch lantern, wren",
    action: "level",
    value: 12.5,
    forMs: 4_000,
    said: { words: "porch 12.5" } as AcceptRow["said"],
    traceparent: "00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01",
    outcome: null,
    refusal: null,
    site: null,
    idempotency: null,
    commands: [command],
    deadlineOf: null,
    ...more,
  };
}

/** Texts of this hour are kept beforehand, for a request that brings new ones takes the long way. */
async function accept(rows: AcceptRow[], as = epoch) {
  const known = new KnownWords();
  known.keep(known.newIn(rows));
  return acceptRequests(world.pool, rows, false, known, [as]);
}

async function kept(table: string, column: string, id: string | undefined) {
  const { rows } = await world.pool.query(`select * from ${table} where ${column} = $1`, [id]);
  return rows.map(({ id: _id, request_id: _request, seq: _seq, ...row }) => row);
}

it.each<[string, Partial<AcceptRow>]>([
  ["a number", {}],
  ["a text, and nothing else that may be missing", { value: "#ff8800", forMs: null, said: null, traceparent: null }],
  ["no value, of a member", { value: null, requester: "member", memberId: 1 }],
])("a request with %s is kept alike alone and in a group", async (_what, more) => {
  const [alone, one, other] = [arrival(more), arrival(more), arrival(more)];
  const [answer] = await accept([alone]);
  const group = await accept([one, other]);
  expect([answer, ...group].map((each) => each?.kept)).toEqual([true, true, true]);
  const seqs = [answer, ...group].flatMap((each) => (each?.kept ? each.seqs : []));
  expect(seqs).toEqual([...seqs].sort((a, b) => a - b));
  expect(await kept("request", "id", alone.id)).toEqual(await kept("request", "id", one.id));
  const commands = await kept("open_command", "id", alone.commands[0]?.id);
  expect(commands).toHaveLength(1);
  expect(commands).toEqual(await kept("open_command", "id", one.commands[0]?.id));
});

it("an ended command is kept alike alone and in a group, and is open no more", async () => {
  const rows = [arrival(), arrival(), arrival()];
  await accept(rows);
  const ended = rows.map(({ id, commands: [command] }) => ({
    id: command?.id,
    requestId: id,
    channel: channelId,
    seq: 7,
    to: "on",
    policy: { targetStage: "acknowledged" },
    stage: "acknowledged",
    end: "failed",
    reason: "device-said-no",
    attempts: 100_000,
    askedAt: 1_795_000_000_000,
    hops: [{ at: 3, what: "published", bytes: '{"to":"on"}' }],
    urgent: false,
    forMs: null,
  })) as unknown as Command[];
  const [alone, ...group] = ended.map((command) => ({ command }));
  if (alone) await settleCommands(world.pool, [alone], [epoch]);
  // Nobody knows whether a commit that broke off was kept: it is made again.
  if (alone) await settleCommands(world.pool, [alone], [epoch]);
  await settleCommands(world.pool, group, [epoch]);
  const [first, second] = await Promise.all(ended.slice(0, 2).map(({ id }) => kept("command", "id", id)));
  expect(first).toHaveLength(1);
  expect(first).toEqual(second);
  for (const { id } of ended) expect(await kept("open_command", "id", id)).toEqual([]);
});

it("a request of a key that was revoked meanwhile is not kept, alone as in a group", async () => {
  const { rows } = await world.pool.query<{ id: number }>(
    "update api_key set revoked_at = now() where id = (select id from api_key limit 1) returning id",
  );
  const keyId = rows[0]?.id ?? 0;
  const [alone, one, other] = [arrival({ keyId }), arrival({ keyId }), arrival({ keyId })];
  const refused = { kept: false, original: null };
  expect([...(await accept([alone])), ...(await accept([one, other]))]).toEqual([refused, refused, refused]);
  for (const { id } of [alone, one, other]) expect(await kept("request", "id", id)).toEqual([]);
});

it("without the lease nothing is kept, alone as in a group", async () => {
  for (const rows of [[arrival()], [arrival(), arrival()]]) {
    const error = await accept(rows, epoch - 1).catch((error: unknown) => error);
    expect(isLeaseLost(error)).toBe(true);
    for (const { id } of rows) expect(await kept("request", "id", id)).toEqual([]);
  }
});

it("the lease changes hands only after what its leader was writing is durable, and then refuses the next", async () => {
  const [leader, heir] = await Promise.all([session(), session()]);
  try {
    const id = randomUUID();
    await leader.query("begin");
    await leader.query("select hold_lease($1)", [epoch]);
    let taken = false;
    const taking = heir.query("update lease set epoch = epoch + 1").then(() => {
      taken = true;
    });
    await waitsForLock(heir);
    await leader.query(
      "insert into request (id, asked_at, inlet, asker, target, action) values ($1, now(), '', '', '', '')",
      [id],
    );
    expect(taken).toBe(false);
    await leader.query("commit");
    await taking;
    expect(await kept("request", "id", id)).toHaveLength(1);
    await expect(leader.query("select hold_lease($1)", [epoch])).rejects.toMatchObject({ code: "BL001" });
  } finally {
    await Promise.all([leader.end(), heir.end()]);
  }
});

it("a statement that begins while the lease changes hands waits, and is refused", async () => {
  const [heir, leader] = await Promise.all([session(), session()]);
  try {
    await heir.query("begin");
    await heir.query("update lease set epoch = epoch + 1");
    const writing = leader.query("select hold_lease($1)", [epoch]).catch((error: unknown) => error);
    await waitsForLock(leader);
    await heir.query("commit");
    expect(isLeaseLost(await writing)).toBe(true);
  } finally {
    await Promise.all([leader.end(), heir.end()]);
  }
});

async function session(): Promise<pg.Client & { processID?: number }> {
  const client = new pg.Client(world.config.databaseUrl);
  await client.connect();
  return client;
}

/** Until the session stands at a lock that another has. */
async function waitsForLock(client: pg.Client & { processID?: number }): Promise<void> {
  for (;;) {
    const { rows } = await world.pool.query("select from pg_locks where pid = $1 and not granted", [client.processID]);
    if (rows.length > 0) return;
  }
}

it.each([
  ["was removed", "delete from member where id = $1", true],
  ["has no role any more", "update member set role = null where id = $1", true],
  ["may only look", "update member set role = 'reader' where id = $1", true],
  ["signed out", "delete from session where member_id = $1", true],
  ["has a new name only", "update member set name = name || ' II' where id = $1", false],
])("of a member who %s nothing is kept, alone or in a group", async (_how, ending, isRefused) => {
  const { rows } = await world.pool.query<{ id: number }>(
    "insert into member (name, password_hash, role) values ($1, 'none', 'user') returning id",
    [randomUUID()],
  );
  const memberId = rows[0]?.id ?? 0;
  const token = Buffer.from(randomUUID().replaceAll("-", "").repeat(2), "hex");
  await world.pool.query(
    "insert into session (token_sha256, member_id, expires_at) values ($1, $2, now() + interval '1 hour')",
    [token, memberId],
  );
  const asks = () => arrival({ requester: "member", memberId, session: token.toString("base64") });
  expect((await accept([asks(), asks()])).map(({ kept: isKept }) => isKept)).toEqual([true, true]);
  await world.pool.query(ending, [memberId]);
  const [alone, one, other] = [asks(), asks(), arrival()];
  const answers = [...(await accept([alone])), ...(await accept([one, other]))];
  expect(answers.map(({ kept: isKept }) => isKept)).toEqual([!isRefused, !isRefused, true]);
  expect(await kept("open_command", "id", one.commands[0]?.id)).toHaveLength(isRefused ? 0 : 1);
});
