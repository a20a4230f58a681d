/** What a monitoring system reads, and what an installation is made of. */
import { execFileSync, spawnSync } from "node:child_process";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { CONFIG_NAMES } from "../src/platform/config/config.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const file = (name: string) => readFileSync(new URL(`../../../${name}`, import.meta.url), "utf8");

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

const read = async (key: string) =>
  fetch(`${world.service.url}/metrics`, { headers: { authorization: `Bearer ${key}` } });

describe("metrics", () => {
  it("count what was asked and what became of it", async () => {
    await world.ask("wren/porch", "on");
    await world.client.ask({ target: "nothing like this", action: "on" }).catch(() => null);
    const text = await (await read(world.key)).text();
    expect(text).toContain('bold_relay_requests_total{inlet="API",outcome="delivered"} 1');
    expect(text).toContain('bold_relay_requests_total{inlet="API",outcome="not-understood"} 1');
    expect(text).toContain('bold_relay_commands_ended_total{end="delivered",reason=""} 1');
    expect(text).toContain("bold_relay_link_up 1");
    expect(text).toContain("bold_relay_channels_unknown");
  });

  it("are those that the document lists, both ways", async () => {
    const text = await (await read(world.key)).text();
    const told = [...text.matchAll(/^# TYPE (bold_relay_\w+) (\w+)$/gm)].map(([, name, kind]) => `${name} ${kind}`);
    const listed = [...file("docs/reference/metrics.md").matchAll(/^\| `(bold_relay_\w+)` \| (\w+) \|/gm)];
    expect(told.sort()).toEqual(listed.map(([, name, kind]) => `${name} ${kind}`).sort());
  });

  it("are for those who may look at every site", async () => {
    expect((await fetch(`${world.service.url}/metrics`)).status).toBe(401);
    expect((await read((await world.client.addKey({ name: "monitoring", most: "user" })).key)).status).toBe(200);
    expect((await read(world.inletKey)).status).toBe(401);
  });
});

describe("an installation", () => {
  it("has every setting in its file", () => {
    const inFile = [...file("deploy/bold-relay.env").matchAll(/^#?(BOLD_RELAY_\w+)=/gm)].map(([, name]) => name);
    const shown = CONFIG_NAMES.filter((name) => name !== "BOLD_RELAY_FAILPOINT");
    expect(inFile.sort()).toEqual([...shown].sort());
  });

  it.skipIf(spawnSync("systemd-analyze", ["--version"]).status !== 0)(
    "has a unit that systemd understands, and that is let near nothing",
    () => {
      const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-unit-"));
      try {
        mkdirSync(path.join(folder, "etc"));
        const unit = path.join(folder, "bold-relay.service");
        writeFileSync(
          unit,
          file("deploy/systemd/bold-relay.service").replace("/opt/bold-relay/bin/bold-relay-server start", "/bin/true"),
        );
        const verified = spawnSync("systemd-analyze", ["verify", "--man=no", unit], { encoding: "utf8" });
        expect(verified.stderr.split("\n").filter((line) => line.includes("bold-relay.service"))).toEqual([]);
        const security = execFileSync("systemd-analyze", ["security", "--offline=true", unit], { encoding: "utf8" });
        const exposure = Number(/exposure level for \S+: (\d+\.\d)/.exec(security)?.[1]);
        expect(exposure).toBeLessThanOrEqual(2);
      } finally {
        rmSync(folder, { recursive: true, force: true });
      }
    },
  );
});
