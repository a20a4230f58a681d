/** Words in the last day: what a look at every request would find is found, page after page, whatever hour it was asked in. */
import { readFile } from "node:fs/promises";
import type { RequestView } from "@bold-relay/api";
import { HOUR_MS, smallestIdAt } from "@bold-relay/core";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { KnownWords, keepWords } from "../src/store/asked-words.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

const MIGRATION = new URL("../migrations/0019_asked_words.sql", import.meta.url);
/** More people of one name than are looked up one by one. */
const GUESTS = 30;

let world: World;
let all: RequestView[];

beforeAll(async () => {
  world = await createWorld();
  await earlier();
  for (let turn = 0; turn < 20; turn += 1)
    await ask(`Guest ${turn % GUESTS}`, turn % 3 ? "no such lamp" : "fairy lihgts");
  await ask("Ana", "10 % of nothing");
  await phrase();
  all = await listed({});
});
afterAll(() => world.stop());

/** Requests of the hours before, as an older version has left them: nothing of their words is kept so far. */
async function earlier(): Promise<void> {
  const now = Date.now();
  const rows = Array.from({ length: 90 }, (_, turn) => {
    const at = now - (1 + (turn % 22)) * HOUR_MS - turn * 1_000;
    const id = smallestIdAt(at).slice(0, 24) + String(turn).padStart(12, "0");
    const asker = turn % 7 === 0 ? "Bo" : `Guest ${turn % GUESTS}`;
    return { id, at: new Date(at).toISOString(), asker, target: turn % 11 === 0 ? "Old_gate" : "the pump" };
  });
  await world.pool.query(
    `insert into request (id, asked_at, inlet, asker, target, action, outcome, refusal)
     select id, at, 'hall-tablet', asker, target, 'on', 'not-understood', '{"code":"no-route","facts":{"inlet":"x"}}'
     from json_to_recordset($1) as r(id uuid, at timestamptz, asker text, target text)`,
    [JSON.stringify(rows)],
  );
  const [, takeOn = ""] = (await readFile(MIGRATION, "utf8")).split(/(?=^insert into)/m);
  await world.pool.query(takeOn.replace(/;\s*$/, " on conflict do nothing"));
}

async function ask(sender: string, target: string): Promise<void> {
  await fetch(`${world.service.url}/in/${INLET}`, {
    method: "POST",
    headers: { authorization: `Bearer ${world.inletKey}`, "content-type": "application/json" },
    body: JSON.stringify({ target, action: "on", sender }),
  });
}

/** A request whose target is as long as what somebody typed. */
async function phrase(): Promise<void> {
  const words = Array.from({ length: 60 }, (_, turn) => (turn === 37 ? "Zwölfachser 🦉" : "hall light in wren")).join(
    ", ",
  );
  const id = smallestIdAt(Date.now() - 1_000);
  await world.pool.query(
    `insert into request (id, asked_at, inlet, asker, target, action, outcome) values ($1, now(), 'chat', 'Ana', $2, 'on', 'not-understood')`,
    [id, words],
  );
  const known = new KnownWords();
  const rows = known.newIn([{ id, asker: "Ana", inlet: "chat", target: words }]);
  const values: unknown[] = [];
  const insert = keepWords(rows, (value) => `$${values.push(value)}`);
  await world.pool.query(`with held as (select true) ${insert}`, values);
  expect(rows.length).toBeGreaterThan(4);
}

/** Every page of it. */
async function listed(query: { words?: string; limit?: number }): Promise<RequestView[]> {
  const found: RequestView[] = [];
  for (let before: string | null = null; ; ) {
    const page = await world.client.log({ ...query, ...(before === null ? {} : { before }) });
    found.push(...page.requests);
    if (page.next === null) return found;
    before = page.next;
  }
}

function naive(words: string): string[] {
  const wanted = words.toLowerCase();
  const has = (text: string) => text.toLowerCase().includes(wanted);
  return all.filter(({ asker, inlet, target }) => has(asker) || has(inlet) || has(target)).map(({ id }) => id);
}

describe("a search", () => {
  it.each([
    "Bo",
    "guest 1",
    "GUEST",
    "pump",
    "old_gate",
    "fairy",
    "tablet",
    "10 %",
    "0 %",
    "d_g",
    "zzzz",
    "an",
    "ana",
    "zwölfachser 🦉",
    "wren, zwölf",
    "light in wren",
  ])("for “%s” finds what a look at every request would find", async (words) => {
    expect((await listed({ words })).map(({ id }) => id)).toEqual(naive(words));
  });

  it("finds the same on pages of any size", async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom("guest", "bo", "gate", "e 1", "lamp"),
        fc.integer({ min: 3, max: 40 }),
        async (words, limit) => {
          expect((await listed({ words, limit })).map(({ id }) => id)).toEqual(naive(words));
        },
      ),
      { numRuns: 12 },
    );
  });

  it("knows the words of a request as soon as that is answered, after a restart too", async () => {
    await ask("Ottilie", "greenhouse");
    expect(await listed({ words: "ottilie" })).toHaveLength(1);
    await world.restart();
    await ask("Ottilie", "greenhouse");
    expect(await listed({ words: "greenh" })).toHaveLength(2);
  });
});
