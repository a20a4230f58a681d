/** Deleting a site or a profile: nothing that is in use, nothing that is depended on; what happened stays on record. */
import { createClient, type Problem, ProblemError } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { hashPassword, newKey, saveKey, saveMember, sha256 } from "../src/index.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

async function problemOf(work: Promise<unknown>): Promise<Problem> {
  try {
    await work;
  } catch (error) {
    if (error instanceof ProblemError) return error.problem;
    throw error;
  }
  throw new Error("It was not refused.");
}

describe("a profile", () => {
  it("that a device uses is not deleted, and the devices are named", async () => {
    const { code, detail } = await problemOf(world.client.deleteProfile("reporting", null));
    expect(code).toBe("depended-on");
    expect(detail).toContain(`the device ${world.address("wren")}`);
  });

  it("of ours that a team deleted does not come back by a restart, only when it is loaded", async () => {
    const profiles = async () => (await world.client.profiles()).map(({ profile }) => profile.slug);
    const [shipped] = (await world.client.profiles()).filter(({ profile }) => profile.slug === "single-characters");
    await world.client.deleteProfile("single-characters", null);
    await world.restart();
    expect(await profiles()).not.toContain("single-characters");
    expect((await problemOf(world.client.deleteProfile("single-characters", null))).code).toBe("not-found");
    if (shipped) await world.client.saveProfile(shipped.profile, 0);
    expect(await profiles()).toContain("single-characters");
  });
});

describe("a site", () => {
  it("is not deleted while an inlet belongs to it, or by who looked at an older version", async () => {
    expect(await problemOf(world.client.deleteSite(world.site, null))).toMatchObject({
      code: "depended-on",
      detail: expect.stringContaining(`the inlet ${INLET}`),
    });
    await world.client.removeInlet(INLET);
    expect((await problemOf(world.client.deleteSite(world.site, 99))).code).toBe("changed-meanwhile");
    expect((await world.client.board()).sites).toHaveLength(1);
  });

  it("is not deleted while a command is open or somebody has locked a channel out", async () => {
    const lockout = await world.client.lockOut({ target: world.address("wren/porch") });
    expect(await problemOf(world.client.deleteSite(world.site, null))).toMatchObject({
      code: "in-use",
      detail: expect.stringContaining("has locked it out"),
    });
    await world.client.release(lockout.id, {});
  });

  it("goes with its channels and with roles there; log and history stay, and it comes back as itself", async () => {
    const asked = await world.ask("wren/porch", "on");
    const { site, version } = await world.client.site(world.site);
    const key = await keyOfMemberAt(world.site);
    // The service has another address after its restart.
    const pilar = () => createClient({ baseUrl: world.service.url, key });
    expect((await pilar().board()).sites).toHaveLength(1);

    await world.client.deleteSite(world.site, version);
    expect((await world.client.board()).sites).toEqual([]);
    expect((await problemOf(world.client.site(world.site))).code).toBe("not-found");
    expect((await problemOf(world.ask("wren/porch", "off"))).code).toBe("unknown-channel");
    expect((await world.client.request(asked.id)).outcome).toBe("delivered");
    const inlet = { slug: "late", name: "Late", kind: "web", site: world.site } as const;
    expect((await problemOf(world.client.saveInlet(inlet, 0))).code).toBe("inlet-wrong");
    await world.restart();
    expect((await world.client.board()).sites).toEqual([]);

    await world.client.saveSite(site, 0);
    const { requests } = await world.client.log({ channel: world.address("wren/porch") });
    expect(requests.map(({ id }) => id)).toContain(asked.id);
    // Whoever had a role there has to be given one again.
    expect((await problemOf(pilar().board())).status).toBe(403);
    expect(await world.ask("wren/porch", "off")).toMatchObject({ outcome: "delivered" });
  });

  it("that is deleted while an inlet is saved there leaves no inlet of every site behind", async () => {
    for (let round = 0; round < 10; round += 1) {
      const slug = `yard-${round}`;
      await world.client.saveSite({ slug, name: slug, rooms: [] }, 0);
      const inlet = { slug: `gate-${round}`, name: "Gate", kind: "web", site: slug } as const;
      await Promise.allSettled([world.client.saveInlet(inlet, 0), world.client.deleteSite(slug, null)]);
      const { rows } = await world.pool.query(
        `select (select count(*)::int from inlet i join site s on s.id = i.site_id and s.removed_at is null where i.slug = $1) as inlets,
           (select count(*)::int from inlet where slug = $1) as whole,
           (select count(*)::int from site where slug = $2 and removed_at is null) as sites`,
        [inlet.slug, slug],
      );
      const { inlets, whole, sites } = rows[0];
      expect([whole, sites]).toEqual([inlets, inlets]);
    }
  });

  async function keyOfMemberAt(slug: string): Promise<string> {
    const id = await saveMember(world.pool, "Pilar", await hashPassword("stands beside four lanterns"), null);
    await world.pool.query(
      "insert into membership (member_id, site_id, role) select $1, id, 'user' from site where slug = $2",
      [id, slug],
    );
    const key = newKey();
    await saveKey(world.pool, { name: "test", tokenSha256: sha256(key), memberId: id });
    return key;
  }
});
