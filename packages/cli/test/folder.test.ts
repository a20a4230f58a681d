/** A whole installation as a folder of files: saved, checked, loaded; nothing that somebody else changed is overwritten. */
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, beforeEach, describe, expect, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";
import { commandLine } from "./support/run.ts";

let world: World;
let folder: string;

beforeAll(async () => {
  world = await createWorld();
});
afterAll(() => world.stop());
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), "installation-"));
  return () => rmSync(folder, { recursive: true });
});

const run = commandLine(() => world);

const at = (...parts: string[]) => path.join(folder, ...parts);

function edit(file: string, from: string | RegExp, to: string): void {
  writeFileSync(at(file), readFileSync(at(file), "utf8").replace(from, to));
}

describe("a folder of descriptions", () => {
  it("that was just saved changes nothing, and holds no secret", async () => {
    await world.client.makeSecret("hall-tablet").catch(() => {});
    expect((await run("save", folder)).out).toMatch(/^\d+ files written to /);
    expect(readdirSync(folder).sort()).toEqual(["inlets", "profiles", "sites"]);
    expect(await run("check", folder)).toMatchObject({ code: 0, out: "Nothing would change.\n" });
    expect((await run("load", folder)).out).toBe("Nothing to change.\n");
    for (const file of readdirSync(folder, { recursive: true, encoding: "utf8" }).filter((name) =>
      name.endsWith(".yaml"),
    ))
      expect(readFileSync(at(file), "utf8")).not.toMatch(/secret|whsec|brk_/);
  });

  it("shows each change before it makes it, new things in the order in which they need each other", async () => {
    await run("save", folder);
    edit(`sites/${world.site}.yaml`, "name: Porch lantern", "name: Front lantern");
    writeFileSync(
      at("profiles", "loft.yaml"),
      readFileSync(at("profiles", "reporting.yaml"), "utf8").replace("slug: reporting", "slug: loft"),
    );
    writeFileSync(
      at("sites", "loft.yaml"),
      "slug: loft\nname: Loft\nrooms:\n  - slug: attic\n    name: Attic\n    devices:\n      - { slug: one, name: One, profile: loft, channels: [{ slug: lamp, name: Attic lamp, kind: light }] }\n",
    );
    writeFileSync(at("inlets", "loft.yaml"), "slug: loft-web\nname: Loft web\nkind: web\nsite: loft\n");
    const plan = await run("check", folder);
    expect(plan.code).toBe(0);
    expect(plan.out).toMatch(
      /\+ profile loft\n.*\+ site loft\n.*~ site site-\w+\n.*Porch lantern → Front lantern\n.*\+ inlet loft-web/s,
    );
    expect((await world.client.board()).sites).toHaveLength(1);
    expect((await run("load", folder)).out).toMatch(/4 changes are in effect\.\n$/);
    expect((await world.client.board()).sites.flatMap(({ channels }) => channels.map(({ name }) => name))).toEqual(
      expect.arrayContaining(["Attic lamp", "Front lantern"]),
    );
    expect((await run("check", folder)).out).toBe("Nothing would change.\n");
  });

  it("deletes what is in no file only when it is told to, what depends on something first", async () => {
    await run("save", folder);
    rmSync(at("sites", "loft.yaml"));
    rmSync(at("inlets", "loft-web.yaml"));
    expect((await run("check", folder)).out).toContain("In no file, and left as it is: site loft, inlet loft-web.");
    expect((await run("load", folder)).out).toBe("Nothing to change.\n");
    const { out } = await run("load", folder, "--delete");
    expect(out).toMatch(/- inlet loft-web\n.*- site loft\n2 changes are in effect\.\n$/s);
  });

  it("with an error changes nothing at all, and says what is wrong", async () => {
    await run("save", folder);
    edit(`sites/${world.site}.yaml`, /kind: light/, "kind: lamp-post");
    edit("profiles/reporting.yaml", "name: Reports", "name: Reports all");
    const { code, err } = await run("load", folder);
    expect([code, err]).toEqual([expect.any(Number), expect.stringContaining("kind")]);
    expect(code).not.toBe(0);
    expect((await world.client.profiles()).map(({ profile }) => profile.name)).not.toContain("Reports all");
  });

  it.each([
    ["no descriptions", () => {}, /has no descriptions\. They stand in profiles\//],
    ["a file that is no YAML", () => file("sites/a.yaml", "slug: ["), /sites\/a\.yaml: /],
    ["a file without an identifier", () => file("sites/a.yaml", "name: A"), /describes no site: it has no “slug”/],
    [
      "two files of the same",
      () => {
        file("inlets/a.yaml", "slug: a");
        file("inlets/b.yaml", "slug: a");
      },
      /both describe the inlet a/,
    ],
  ])("with %s is refused", async (_title, prepare, message) => {
    prepare();
    const { code, err } = await run("check", folder);
    expect([code, err]).toEqual([2, expect.stringMatching(message)]);
  });

  function file(name: string, text: string): void {
    mkdirSync(path.dirname(at(name)), { recursive: true });
    writeFileSync(at(name), text);
  }
});
