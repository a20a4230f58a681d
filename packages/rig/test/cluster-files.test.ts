/** What one of three machines gets: files of its own, the same secrets on all of them, and nothing that its programs refuse. */
import { execFileSync, spawnSync } from "node:child_process";
import { chmodSync, existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { afterAll, beforeAll, describe, expect, it } from "vitest";

const PROGRAM = fileURLToPath(new URL("../../../deploy/cluster/set-up.mjs", import.meta.url));
const NODES = "north=10.0.0.11,east=10.0.0.12,south=10.0.0.13";
const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-cluster-files-"));
const secrets = path.join(folder, "secrets.json");
const file = (node: string, name: string) => path.join(folder, node, name);
const text = (node: string, name: string) => readFileSync(file(node, name), "utf8");

beforeAll(() => {
  for (const node of ["north", "east", "south"])
    execFileSync(process.execPath, [
      ...[PROGRAM, path.join(folder, node), "--node", node, "--nodes", NODES],
      ...["--address", "10.0.0.10/24", "--secrets", secrets],
    ]);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe("the files of three machines", () => {
  it("are for their owner only, and the first two have a broker", () => {
    for (const node of ["north", "east", "south"])
      for (const name of readdirSync(path.join(folder, node)))
        expect([node, name, statSync(file(node, name)).mode & 0o077]).toEqual([node, name, 0]);
    expect(["north", "east", "south"].map((node) => existsSync(file(node, "broker")))).toEqual([true, true, false]);
    expect(statSync(secrets).mode & 0o077).toBe(0);
  });

  it("have the same secrets, and the address of their own machine", () => {
    const made = JSON.parse(readFileSync(secrets, "utf8")) as Record<string, string>;
    for (const [node, address] of [
      ["north", "10.0.0.11"],
      ["south", "10.0.0.13"],
    ] as const) {
      expect(text(node, "patroni.yml")).toContain(`password: ${made.superuser}`);
      expect(text(node, "patroni.yml")).toContain(`connect_address: ${address}:5432`);
      const env = text(node, "bold-relay.env");
      expect(env).toContain(`BOLD_RELAY_SECRETS_KEY=${made.secretsKey}`);
      expect(env).toContain(`BOLD_RELAY_INSTANCE=${node}`);
      // The same for all of them, as for the devices.
      expect(env).toContain("BOLD_RELAY_BROKER_URL=mqtt://10.0.0.10:1883");
      expect(env).toContain("BOLD_RELAY_BROKER_ADMIN_URLS=mqtt://10.0.0.11:11883,mqtt://10.0.0.12:11883");
    }
  });

  it("let a commit count only once a second machine has it", () => {
    const patroni = text("east", "patroni.yml");
    for (const line of ["synchronous_mode: true", "synchronous_mode_strict: true", 'synchronous_commit: "on"'])
      expect(patroni).toContain(line);
  });

  it("are taken by HAProxy and keepalived where these are installed", () => {
    const check = (command: string, words: string[]) => {
      const { error, status, stdout, stderr } = spawnSync(command, words, { encoding: "utf8" });
      if (error) return;
      expect([command, status, `${stdout}${stderr}`]).toEqual([command, 0, expect.any(String)]);
    };
    const plain = text("north", "haproxy.cfg").replace(/^ {2}(user|group|stats socket) .*\n/gm, "");
    const config = path.join(folder, "haproxy.cfg");
    execFileSync("tee", [config], { input: plain, stdio: ["pipe", "ignore", "ignore"] });
    check("haproxy", ["-c", "-f", config]);
    chmodSync(file("north", "keepalived.conf"), 0o600);
    check("keepalived", ["--config-test", "--use-file", file("north", "keepalived.conf")]);
  });

  it("are not written for a machine that is none of the three, or without an address", () => {
    const refused = (words: string[]) => spawnSync(process.execPath, [PROGRAM, ...words], { encoding: "utf8" });
    const west = [path.join(folder, "x"), "--node", "west", "--nodes", NODES, "--address", "10.0.0.10/24"];
    const none = refused([...west, "--secrets", secrets]);
    expect([none.status === 0, none.stderr]).toEqual([false, expect.stringContaining("There is no node west among")]);
    // Without a place for its secrets it would leave them where it runs, in a clone say.
    expect(refused(west).status).toBe(2);
    expect(existsSync("cluster-secrets.json")).toBe(false);
    expect(refused(["--help"])).toMatchObject({ status: 0, stdout: expect.stringContaining("--secrets FILE") });
    const short = refused([path.join(folder, "x"), "--node", "north", "--nodes", NODES]);
    expect([short.status, short.stderr]).toEqual([2, expect.stringContaining("Usage:")]);
  });
});
