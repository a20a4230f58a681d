/** Two sites on one service, with members of every role at each of them and in the whole team: for attacks from next door. */
import { randomBytes } from "node:crypto";
import { type Client, createClient } from "@bold-relay/api";
import { ROLES, type Role } from "@bold-relay/core";
import { newKey, saveKey, saveProfile, saveSite, sha256 } from "../../src/index.ts";
import { describePlover, ploverProfiles } from "./plover.ts";
import { createWorld, signedInAs, type World } from "./world.ts";

export const OTHER_SITE = "glasshouse";

export interface Neighbours {
  readonly world: World;
  readonly own: string;
  readonly other: string;
  /** A member who has no more than this; made on the first use. */
  client(role: Role | "none", site: string | null): Promise<Client>;
  keyOf(role: Role | "none", site: string | null): Promise<string>;
  /** Calls the API as it is: a path below /api/v1. @param shown a key, or the headers of a session */
  call(shown: string | Record<string, string>, method: string, path: string, body?: unknown): Promise<Response>;
  /** Headers of a session that somebody has just opened. */
  session(role: Role | "none", site: string | null): Promise<Record<string, string>>;
  stop(): Promise<void>;
}

/** Roles that somebody may have at one site. */
export const SITE_ROLES = ROLES.slice(0, -1) as readonly Exclude<Role, "owner">[];

const nameOf = (role: Role | "none", site: string | null) => `${role} of ${site ?? "the team"}`;

export async function createNeighbours(environment: Record<string, string> = {}): Promise<Neighbours> {
  const world = await createWorld({
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"), ...environment },
  });
  for (const profile of ploverProfiles) await saveProfile(world.pool, profile, "the test");
  await saveSite(world.pool, describePlover(OTHER_SITE), "the test");
  await world.restart();
  const keys = new Map<string, Promise<string>>();

  async function makeMember(name: string, role: Role | "none", site: string | null): Promise<string> {
    const roles =
      role === "none" ? {} : site === null ? { role } : { sites: [{ site, role: role as Exclude<Role, "owner"> }] };
    await world.client.addMember({ name, ...roles });
    const { rows } = await world.pool.query("select id from member where name = $1", [name]);
    const key = newKey();
    await saveKey(world.pool, { name: "test", tokenSha256: sha256(key), memberId: rows[0].id });
    return key;
  }

  function keyOf(role: Role | "none", site: string | null): Promise<string> {
    const name = nameOf(role, site);
    const known = keys.get(name) ?? makeMember(name, role, site);
    keys.set(name, known);
    return known;
  }

  return {
    world,
    own: world.site,
    other: OTHER_SITE,
    keyOf,
    client: async (role, site) => {
      const [baseUrl, key] = [world.service.url, await keyOf(role, site)];
      return createClient({ baseUrl, key, signInAgain: () => signedInAs(world.pool, nameOf(role, site), baseUrl) });
    },
    session: async (role, site) => {
      await keyOf(role, site);
      return signedInAs(world.pool, nameOf(role, site), world.service.url);
    },
    call(shown, method, path, body) {
      const headers: Record<string, string> =
        typeof shown === "string" ? { authorization: `Bearer ${shown}` } : { ...shown };
      const init: RequestInit = { method, headers, signal: AbortSignal.timeout(20_000) };
      if (body !== undefined) headers["content-type"] = "application/json";
      if (body !== undefined) init.body = JSON.stringify(body);
      return fetch(`${world.service.url}${path === "/metrics" ? "" : "/api/v1"}${path}`, init);
    },
    stop: () => world.stop(),
  };
}
