/** The journal of some site: what a look at every request would find, page after page, for who may see all and for who may not. */
import { type Client, createClient, type LogResult } from "@bold-relay/api";
import { type End, smallestIdAt } from "@bold-relay/core";
import fc from "fast-check";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { newKey, saveKey, saveProfile, saveSite, sha256 } from "../src/index.ts";
import { describePlover, ploverProfiles } from "./support/plover.ts";
import { refusal } from "./support/until.ts";
import { createWorld, type World } from "./support/world.ts";

const OTHER = "other-site";

/** A request as somebody would tell of it who has seen all of them. */
interface Seen {
  readonly id: string;
  readonly asker: string;
  /** Where its commands are, or where it was refused; null: nowhere. */
  readonly site: string | null;
  /** How its commands ended; none: it was refused. */
  readonly ends: readonly End[];
}

const seen: Seen[] = [];
let world: World;
let here: Client;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 20_000 } });
  for (const profile of ploverProfiles) await saveProfile(world.pool, profile, "the test");
  await saveSite(world.pool, describePlover(OTHER), "the test");
  const channels = await channelsBySite();
  for (let turn = 0; turn < 120; turn += 1) await happen(turn, channels);
  await world.restart();
  here = await operatorOf(world.site);
});
afterAll(() => world.stop());

async function channelsBySite(): Promise<Map<string, number[]>> {
  const { rows } = await world.pool.query<{ slug: string; ids: number[] }>(
    `select s.slug, array_agg(ch.id order by ch.id) as ids
     from channel ch join device d on d.id = ch.device_id join site s on s.id = d.site_id group by 1`,
  );
  return new Map(rows.map(({ slug, ids }) => [slug, ids]));
}

/** Every third is a group, of as many as four. */
async function happen(turn: number, channels: Map<string, number[]>): Promise<void> {
  const at = Date.now() - 1_000 * (200 - turn);
  const id = smallestIdAt(at).slice(0, 24) + String(turn).padStart(12, "0");
  // What happens at one of them is rare.
  const site = turn % 7 === 0 ? world.site : turn % 7 === 1 ? null : OTHER;
  const asker = turn % 5 === 0 ? "Hana" : "Tomas";
  const isRefused = site === null || turn % 4 === 3;
  await world.pool.query(
    `insert into request (id, asked_at, requester, inlet, asker, target, action, outcome, site)
     values ($1, to_timestamp($2 / 1000.0), 'member', 'board', $3, 'x', 'on', $4, $5)`,
    [id, at, asker, isRefused ? "refused" : null, isRefused ? site : null],
  );
  const ends = Array.from({ length: isRefused ? 0 : 1 + (turn % 3 === 0 ? turn % 4 : 0) }, (_, place) =>
    endOf(turn + place),
  );
  for (const [place, ended] of ends.entries())
    await world.pool.query(
      `insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
       values (gen_random_uuid(), $1, $2, 1, 'on', 'confirmed', 'published', $3, 1, to_timestamp($4 / 1000.0), '[]')`,
      [id, channels.get(site ?? "")?.[place], ended, at],
    );
  seen.unshift({ id, asker, site, ends });
}

function endOf(turn: number): End {
  return (["delivered", "delivered", "failed", "replaced", "unanswered"] as const)[turn % 5] ?? "delivered";
}

async function operatorOf(site: string): Promise<Client> {
  await world.client.addMember({ name: "Hana", sites: [{ site, role: "operator" }] });
  const key = newKey();
  const { rows } = await world.pool.query("select id from member where name = 'Hana'");
  await world.pool.query("update request set member_id = $1 where asker = 'Hana'", [rows[0].id]);
  await saveKey(world.pool, { name: "test", tokenSha256: sha256(key), memberId: rows[0].id });
  return createClient({ baseUrl: world.service.url, key });
}

const IS: Record<LogResult, (one: Seen) => boolean> = {
  delivered: ({ ends }) => ends.includes("delivered"),
  "not-delivered": ({ ends }) => ends.includes("failed") || ends.includes("unanswered"),
  replaced: ({ ends }) => ends.includes("replaced"),
  refused: ({ ends }) => ends.length === 0,
  open: () => false,
};

describe("the journal", () => {
  it("of sites is what a look at every request would find, on pages of any size", async () => {
    const query = fc.record({
      reader: fc.constantFrom("owner", "operator"),
      site: fc.constantFrom<(string | undefined)[]>(undefined, world.site, OTHER),
      result: fc.constantFrom<(LogResult | undefined)[]>(
        undefined,
        "delivered",
        "not-delivered",
        "replaced",
        "refused",
        "open",
      ),
      asker: fc.constantFrom<(string | undefined)[]>(undefined, undefined, "hana", "Tomas"),
      limit: fc.integer({ min: 1, max: 60 }),
    });
    await fc.assert(
      fc.asyncProperty(query, async ({ reader, limit, ...filter }) => {
        const client = reader === "owner" ? world.client : here;
        if (reader === "operator" && filter.site === OTHER) {
          expect(await refusal(client.log({ site: OTHER }))).toBe("not-found");
          return;
        }
        const { site, result, asker } = filter;
        const mine = (one: Seen) => reader === "owner" || one.site === world.site || one.asker === "Hana";
        const wanted = seen.filter(
          (one) =>
            mine(one) &&
            (site === undefined || one.site === site) &&
            (result === undefined || IS[result](one)) &&
            (asker === undefined || one.asker.toLowerCase() === asker.toLowerCase()),
        );
        expect(await listed(client, { ...plain({ site, result, asker }), limit })).toEqual(wanted.map(({ id }) => id));
      }),
      { numRuns: 80 },
    );
  });

  it("has what is open there, and words of theirs only", async () => {
    await (await world.board("wren")).setFault("silent");
    const open = await world.client.ask({ target: world.address("wren/porch"), action: "on" });
    expect(await listed(here, { result: "open" })).toEqual([open.id]);
    expect(await listed(world.client, { result: "open", site: OTHER })).toEqual([]);
    await world.client.ask({ target: `${OTHER}/plover/heat`, action: "sing" }).catch(() => {});
    expect(await listed(here, { words: "wren porch", result: "open" })).toEqual([open.id]);
    expect(await listed(here, { words: "plover/heat" })).toEqual([]);
    expect(await listed(world.client, { words: "plover/heat", site: OTHER })).toHaveLength(1);
    expect(await listed(world.client, { words: "plover/heat", site: world.site })).toEqual([]);
    expect(await refusal(world.client.log({ site: "nowhere" }))).toBe("not-found");
  });
});

function plain<Fields extends object>(fields: Fields): { [Name in keyof Fields]?: NonNullable<Fields[Name]> } {
  return JSON.parse(JSON.stringify(fields));
}

async function listed(client: Client, query: NonNullable<Parameters<Client["log"]>[0]>): Promise<string[]> {
  const ids: string[] = [];
  for (let before: string | null = null; ; ) {
    const page = await client.log({ ...query, ...(before === null ? {} : { before }) });
    ids.push(...page.requests.map(({ id }) => id));
    if (page.next === null) return ids;
    before = page.next;
  }
}
