/**
 * Every operation of the interface × every role × what is of one's own site, of another, of the whole team. The operations are
 * those of the OpenAPI document: one that is added without a row here fails.
 */
import { recentSignInOf } from "@bold-relay/api/schema";
import { mayDo, type Right, ROLES, type Role } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { permissions, type RouteName } from "../src/http/permissions.ts";
import { createNeighbours, type Neighbours, SITE_ROLES } from "./support/neighbours.ts";
import { type Call, operationTries, type Try } from "./support/operation-tries.ts";

let near: Neighbours;
const tries = operationTries(() => near);

beforeAll(async () => {
  near = await createNeighbours();
});
afterAll(() => near.stop());

const guarded = Object.entries(permissions).filter(([, right]) => right !== "anyone" && right !== "member") as [
  RouteName,
  Right,
][];

/** Whether the answer says that somebody may not: what they may not know of is not there for them. */
async function isDenied(role: Role | "none", site: string | null, name: RouteName, { path, body }: Call) {
  const [method = ""] = name.split(" ");
  // What needs a recent sign-in is tried with one: `recent-sign-in.test.ts` tries it without.
  const shown = recentSignInOf(name) === null ? await near.keyOf(role, site) : await near.session(role, site);
  const answer = await near.call(shown, method, path, body);
  const denied = [401, 403, 404].includes(answer.status) || (await isUnknown(name, answer));
  if (!answer.bodyUsed) await answer.body?.cancel();
  expect(answer.status, `${role} ${name}`).toBeLessThan(500);
  return denied;
}

/** Channels of other sites are as if there were none. */
async function isUnknown(name: RouteName, answer: Response): Promise<boolean> {
  if (answer.status !== 422 && name !== "POST /requests/rehearse") return false;
  const { code, refusal } = (await answer.json()) as { code?: string; refusal?: string | null };
  return code === "unknown-channel" || (refusal?.startsWith("No channel, group or scene is called") ?? false);
}

describe("the matrix of operations, roles and places", () => {
  it("has a row for every operation of the interface", async () => {
    const key = await near.keyOf("owner", null);
    const { paths } = (await (await near.call(key, "GET", "/openapi.json")).json()) as {
      paths: Record<string, object>;
    };
    const described = Object.entries(paths).flatMap(([path, operations]) =>
      Object.keys(operations).map((method) => {
        const address = path.replace(/^\/api\/v1/, "").replace(/\{(\w+)\}/g, ":$1");
        return `${method.toUpperCase()} ${address}`;
      }),
    );
    const known = [tries.ofPlace, tries.ofTeam, tries.anywhere].flatMap((rows) => Object.keys(rows));
    const open = Object.entries(permissions).flatMap(([name, right]) =>
      right === "anyone" || right === "member" ? name : [],
    );
    const without = described.filter(
      (name) =>
        ![...known, ...open, ...(tries.elsewhere as readonly string[])].includes(name) &&
        !name.startsWith("GET /health") &&
        name !== "POST /in/:inlet",
    );
    expect(without).toEqual([]);
    expect(described).toEqual(expect.arrayContaining(guarded.map(([name]) => name)));
  });

  it.each(Object.entries(tries.ofPlace) as [RouteName, Try][])(
    "%s: what is of one's own site, by one's role; nothing of another's or of the team's",
    async (name, make) => {
      const right = permissions[name] as Right;
      for (const role of ["none", ...SITE_ROLES] as const) {
        const may = role !== "none" && mayDo(role, right);
        for (const place of ["other", "team", "own"] as const) {
          if (place === "team" && !hasTeam(name)) continue;
          const denied = await isDenied(role, near.own, name, await make(place));
          expect([role, place, denied]).toEqual([role, place, !(may && place === "own")]);
        }
      }
      for (const role of ROLES)
        expect([role, await isDenied(role, null, name, await make("other"))]).toEqual([role, !mayDo(role, right)]);
    },
    60_000,
  );

  it.each(Object.entries(tries.ofTeam) as [RouteName, Try][])("%s: the whole team's", async (name, make) => {
    const right = permissions[name] as Right;
    for (const role of SITE_ROLES)
      expect([role, await isDenied(role, near.own, name, await make("team"))]).toEqual([role, true]);
    for (const role of ROLES)
      expect([role, await isDenied(role, null, name, await make("team"))]).toEqual([role, !mayDo(role, right)]);
  });

  it.each(Object.entries(tries.anywhere) as [RouteName, Try][])(
    "%s: whoever has the right somewhere",
    async (name, make) => {
      const right = permissions[name] as Right;
      expect(await isDenied("none", null, name, await make("own"))).toBe(true);
      for (const role of SITE_ROLES)
        expect([role, await isDenied(role, near.own, name, await make("own"))]).toEqual([role, !mayDo(role, right)]);
    },
  );

  it("POST /lockouts/:id/release: whoever made it, or an owner of the team with a reason; nobody else", async () => {
    const release = async (role: Role | "none", site: string | null, id: string, reason?: string) => {
      const body = reason === undefined ? {} : { reason };
      return (await near.call(await near.keyOf(role, site), "POST", `/lockouts/${id}/release`, body)).status;
    };
    for (const place of ["own", "other"] as const) {
      await near.world.pool.query("update lockout set released_at = now() where released_at is null");
      await near.world.restart();
      const holder = await near.client("operator", tries.siteOf(place));
      const { id } = await holder.lockOut({ target: tries.channelOf(place) });
      const hidden = place === "own" ? 403 : 404;
      expect(await release("none", null, id, "mine")).toBe(403);
      for (const role of ["reader", "user"] as const) expect(await release(role, near.own, id, "mine")).toBe(403);
      expect(await release("engineer", near.own, id, "mine")).toBe(hidden);
      for (const role of ["operator", "engineer"] as const)
        expect([role, await release(role, null, id, "mine")]).toEqual([role, 403]);
      expect(await release("owner", null, id)).toBe(422);
      if (place === "own") expect(await release("operator", near.own, id)).toBe(204);
      else expect(await release("owner", null, id, "Ines has left")).toBe(204);
    }
  });
});

/** Sites, devices and channels are never the whole team's. */
function hasTeam(name: RouteName): boolean {
  return /inlets|notifications|descriptions|keys|alerts|POST \/wire/.test(name);
}
