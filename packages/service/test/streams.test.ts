/** Streams end with the right: whatever takes it away, within a second; and nobody has all of them. */
import { createClient } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { newKey, saveKey, sha256 } from "../src/index.ts";
import { createNeighbours, type Neighbours, OTHER_SITE } from "./support/neighbours.ts";
import { refusal } from "./support/until.ts";

let near: Neighbours;

beforeAll(async () => {
  near = await createNeighbours();
});
afterAll(() => near.stop());

interface Member {
  readonly name: string;
  readonly password: string;
  readonly key: string;
  readonly keyId: number;
}

let serial = 0;
async function member(): Promise<Member> {
  serial += 1;
  const name = `Member ${serial}`;
  const { password } = await near.world.client.addMember({ name, sites: [{ site: near.own, role: "engineer" }] });
  const { rows } = await near.world.pool.query("select id from member where name = $1", [name]);
  const key = newKey();
  const keyId = await saveKey(near.world.pool, { name: "test", tokenSha256: sha256(key), memberId: rows[0].id });
  return { name, password, key, keyId };
}

/** Resolves once the stream stands. `ended` resolves when it is over. */
async function open(path: string, headers: Record<string, string>) {
  const stop = new AbortController();
  const response = await fetch(`${near.world.service.url}/api/v1${path}`, { headers, signal: stop.signal });
  expect(response.status).toBe(200);
  return { ended: response.text().catch(() => "cut"), stop };
}

async function signIn({ name, password }: Member): Promise<Record<string, string>> {
  const response = await fetch(`${near.world.service.url}/api/v1/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin: near.world.service.url },
    body: JSON.stringify({ name, password }),
  });
  return { cookie: (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "" };
}

const bearer = ({ key }: Member) => ({ authorization: `Bearer ${key}` });
const post = (path: string, headers: Record<string, string>, method: string, body?: object) =>
  fetch(`${near.world.service.url}/api/v1${path}`, {
    method,
    headers: { ...headers, origin: near.world.service.url, "content-type": "application/json" },
    ...(body ? { body: JSON.stringify(body) } : {}),
  });

describe("live feed and wire", () => {
  const owner = () => near.world.client;
  it.each<[string, (one: Member) => Promise<unknown>]>([
    ["demotion", ({ name }) => owner().setRoles(name, { sites: [{ site: near.own, role: "user" }] })],
    ["a change of site", ({ name }) => owner().setRoles(name, { sites: [{ site: OTHER_SITE, role: "engineer" }] })],
    ["removal", ({ name }) => owner().removeMember(name)],
    ["revocation of the key", ({ keyId }) => owner().revokeKey(keyId)],
    [
      "the end of the key's time",
      ({ keyId }) => near.world.pool.query("update api_key set expires_at = now() where id = $1", [keyId]),
    ],
  ])("of a key end with %s", async (_what, take) => {
    const one = await member();
    const streams = [await open("/live", bearer(one)), await open(`/wire?filter=${near.own}/%23`, bearer(one))];
    await take(one);
    // Each of these would wait for good if its stream went on.
    await Promise.all(streams.map(({ ended }) => ended));
  });

  it.each<[string, (one: Member, cookie: Record<string, string>) => Promise<unknown>]>([
    ["signing out", (_one, cookie) => post("/session", cookie, "DELETE")],
    [
      "a change of password in another session",
      async (one) =>
        post("/session/password", await signIn(one), "POST", {
          password: one.password,
          next: "seven green lanterns sway",
        }),
    ],
  ])("of a session end with %s", async (_what, take) => {
    const one = await member();
    const cookie = await signIn(one);
    const { ended } = await open("/live", cookie);
    await take(one, cookie);
    expect(await ended).toContain("event: hello");
  });

  it("of others go on meanwhile", async () => {
    const [one, other] = [await member(), await member()];
    const [mine, theirs] = [await open("/live", bearer(one)), await open("/live", bearer(other))];
    await near.world.client.removeMember(one.name);
    await mine.ended;
    const still = await Promise.race([theirs.ended, Promise.resolve("still there")]);
    expect(still).toBe("still there");
    theirs.stop.abort();
  });

  it("leave room for others when one member opens as many as they can", async () => {
    const [greedy, modest] = [await member(), await member()];
    const streams = await Promise.all(Array.from({ length: 20 }, () => open("/live", bearer(greedy))));
    const client = createClient({ baseUrl: near.world.service.url, key: greedy.key });
    expect(await refusal(client.live(() => {}, AbortSignal.timeout(20_000)))).toBe("too-many-streams");
    const other = await open("/live", bearer(modest));
    for (const { stop } of [...streams, other]) stop.abort();
  });
});
