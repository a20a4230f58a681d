/**
 * The Debian package in a clean Debian: installed with nothing else, used, upgraded, upgraded in vain, removed, purged.
 * Needs root, and says so where it is not.
 */
import { execFile, spawnSync } from "node:child_process";
import { cpSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { promisify } from "node:util";
import { eventually } from "@bold-relay/rig";
import type { RelayBoard } from "@bold-relay/standins";
import type { Browser, Page } from "playwright-core";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { openBrowser, openPage } from "../../packages/console/test/support/browser.ts";
import { OWNER, walkFirstRun } from "../../packages/console/test/support/first-run-walk.ts";
import { DebianRoot, whyNotHere } from "./support/debian-root.ts";
import { interfaceTrouble } from "./support/interface.ts";
import { type Person, signIn } from "./support/person.ts";

const CONSOLE = "http://127.0.0.1:4180";
const SETTINGS = "etc/bold-relay/bold-relay.env";
const reason = await whyNotHere();
if (reason !== null) process.stdout.write(`The Debian package is not tried here: ${reason}.\n`);

const debian = reason === null ? new DebianRoot() : null;
const work = mkdtempSync(path.join(tmpdir(), "bold-relay-upgrades-"));

beforeAll(() => debian?.make());
afterAll(() => {
  debian?.destroy();
  rmSync(work, { recursive: true, force: true });
});

const shipped = () => {
  const folder = inject("packages");
  return path.join(folder, readdirSync(folder).find((name) => name.endsWith(".deb")) ?? "no-package");
};

const archive = () => {
  const folder = inject("packages");
  return path.join(folder, readdirSync(folder).find((name) => name.endsWith(".tar.gz")) ?? "no-archive");
};

/** The commands that docs/how-to/install.md has for the archive, line by line. */
function archiveCommands(): string[] {
  const page = readFileSync("docs/how-to/install.md", "utf8");
  const block = /## Archive\n[\s\S]*?```sh[^\n]*\n([\s\S]*?)```/.exec(page)?.[1] ?? "";
  return block.trim().split("\n");
}

/** Nothing here may block: the stand-in board lives in this process, and so do the connections to the service. */
const inBackground = promisify(execFile);

const isReady = async () => (await fetch(`${CONSOLE}/health/ready`).catch(() => null))?.ok === true;

const LATER = { "9000_later.sql": "create table later (id integer);" };
const BROKEN = { ...LATER, "9001_broken.sql": "alter table later add column n integer; select 1 / 0;" };

/** The same package as a later version with migrations of its own. */
async function laterPackage(version: string, migrations: Readonly<Record<string, string>>): Promise<string> {
  const root = path.join(work, version);
  await inBackground("dpkg-deb", ["-R", shipped(), root]);
  const control = path.join(root, "DEBIAN/control");
  writeFileSync(control, readFileSync(control, "utf8").replace(/^Version: .*$/m, `Version: ${version}`));
  for (const [name, sql] of Object.entries(migrations))
    writeFileSync(path.join(root, "usr/lib/bold-relay/packages/service/migrations", name), sql);
  const file = path.join(work, `bold-relay_${version}_amd64.deb`);
  await inBackground("dpkg-deb", ["--root-owner-group", "-Zgzip", "-z1", "--build", root, file]);
  rmSync(root, { recursive: true });
  return file;
}

/** For whoever wants to see the walk: WALK_PICTURES names a folder. */
const pictures = (page: Page) => async (step: string) => {
  const folder = process.env.WALK_PICTURES;
  if (folder) await page.screenshot({ path: path.join(folder, `${step}.png`), fullPage: true });
};

describe.skipIf(debian === null)("the Debian package", () => {
  const root = debian as DebianRoot;
  let owner: Person;
  let board: RelayBoard;
  let settings: string;
  let browser: Browser | null = null;
  afterAll(() => browser?.close());

  const install = (file: string) => {
    cpSync(file, root.at(`root/${path.basename(file)}`));
    return root.run(`apt-get install -y -q --no-install-recommends /root/${path.basename(file)}`);
  };
  const startAll = () => {
    root.start(
      "setpriv --reuid=mosquitto --regid=mosquitto --clear-groups /usr/sbin/mosquitto -c /var/lib/bold-relay/broker/mosquitto.conf",
    );
    startServer("/usr/bin/bold-relay-server");
  };
  // As the unit starts it: root reads the settings, the service's user has them in its environment.
  const startServer = (program: string) =>
    root.start(
      `sh -c 'set -a; . /etc/bold-relay/bold-relay.env; exec setpriv --reuid=bold-relay --regid=bold-relay --clear-groups ${program} start'`,
    );
  const endServer = () => {
    root.signal("packages/service/dist/main.js start", "SIGTERM");
    return eventually(async () => (await fetch(`${CONSOLE}/health/live`).catch(() => null)) === null, 20_000);
  };
  const switchLamp = async (action: string) => {
    const body = { target: "alder-row/bench-board/bench-lamp", action };
    return (await (await owner.call("POST", "/requests", body, { prefer: "wait=10" })).json()) as { outcome: string };
  };

  it("has no error that lintian finds", () => {
    const { status, stdout } = spawnSync("lintian", ["--fail-on", "error", "--allow-root", shipped()], {
      encoding: "utf8",
    });
    expect(stdout.split("\n").filter((line) => line.startsWith("E:"))).toEqual([]);
    expect(status).toBe(0);
  });

  it("installs with its dependencies, and makes database, broker and secrets of its own", async () => {
    const { code, out } = await install(shipped());
    expect(out).toMatch(/ {2}http:\/\/127\.0\.0\.1:4180\/setup#[\w-]{43}\n/);
    expect(code).toBe(0);
    settings = root.read(SETTINGS);
    expect(statSync(root.at(SETTINGS)).mode & 0o777).toBe(0o640);
    const secrets = [...settings.matchAll(/^BOLD_RELAY_\w*(?:PASSWORD|KEY)=(.+)$/gm)].map(([, secret]) => secret);
    expect(new Set(secrets).size).toBe(3);
    expect((await root.run("runuser -u nobody -- cat /etc/bold-relay/bold-relay.env")).code).not.toBe(0);
    expect((await root.run("runuser -u nobody -- ls /var/lib/bold-relay/broker")).code).not.toBe(0);
    expect(root.read("etc/bold-relay/broker-ca.pem")).toContain("BEGIN CERTIFICATE");
    for (const file of readdirSync(root.at("var/lib/bold-relay/broker")))
      if (statSync(root.at(`var/lib/bold-relay/broker/${file}`)).isFile())
        for (const secret of secrets) expect(root.read(`var/lib/bold-relay/broker/${file}`)).not.toContain(secret);
  });

  it("has units that systemd understands", () => {
    for (const unit of ["bold-relay.service", "bold-relay-broker.service"]) {
      const text = root.read(`lib/systemd/system/${unit}`);
      const file = path.join(work, unit);
      writeFileSync(file, text.replace(/^(ExecStart(?:Pre)?=\+?)\S+/gm, "$1/bin/true"));
      const { stderr, error } = spawnSync("systemd-analyze", ["verify", "--man=no", file], { encoding: "utf8" });
      if (error === undefined) expect(stderr.split("\n").filter((line) => line.includes(`${unit}:`))).toEqual([]);
    }
  });

  it("leads from its link to a lamp on its own broker that answers", async () => {
    startAll();
    expect(await eventually(isReady, 60_000)).toBe(true);
    expect(await root.must("bold-relay-server check")).toContain("Errors: 0.");
    const began = Date.now();
    browser = await openBrowser();
    const page = await openPage(browser, []);
    const link = /http\S+/.exec(await root.must("bold-relay-server setup"))?.[0] ?? "";
    // The page names this machine; the stand-in runs on it.
    const [brokerUrl, brokerCa] = ["mqtts://127.0.0.1:8883", root.at("etc/bold-relay/broker-ca.pem")];
    board = await walkFirstRun({ page, link, brokerUrl, brokerCa, onStep: pictures(page) });
    process.stdout.write(`From the link to a request that arrives: ${Math.round((Date.now() - began) / 1000)} s.\n`);
    owner = await signIn(CONSOLE, OWNER);
    expect(await switchLamp("off")).toMatchObject({ outcome: "delivered" });
    expect(board.state.contacts["bench-lamp"]).toBe("off");
  });

  it("answers every reading call as the document says that it ships", async () => {
    const [request] = ((await (await owner.call("GET", "/requests?limit=1")).json()) as { requests: { id: string }[] })
      .requests;
    const names = {
      site: "alder-row",
      device: "bench-board",
      channel: "bench-lamp",
      id: request?.id ?? "",
      kind: "site",
      version: "1",
      slug: "alder-row",
    };
    expect(await interfaceTrouble(owner, names)).toEqual([]);
  });

  it("is upgraded while the service runs: the database is migrated, settings and broker users stay", async () => {
    const { code, out } = await install(await laterPackage("9.1.0", LATER));
    expect(out).toContain("The database was migrated.");
    expect(code).toBe(0);
    expect(root.read(SETTINGS)).toBe(settings);
    // Without systemd nobody restarts it: what ran goes on, and the new version takes over when it is started.
    expect(await switchLamp("off")).toMatchObject({ outcome: "delivered" });
    expect(await endServer()).toBe(true);
    startServer("/usr/bin/bold-relay-server");
    expect(await eventually(isReady, 60_000)).toBe(true);
    expect(await switchLamp("on")).toMatchObject({ outcome: "delivered" });
    expect(root.has("var/lib/bold-relay/previous")).toBe(false);
  });

  it("keeps the version before when a migration fails, with its files and an unchanged database", async () => {
    const migrations = () =>
      root.must("cd / && runuser -u postgres -- psql -tAc 'select count(*) from migration' bold_relay");
    const before = await migrations();
    const { code, out } = await install(await laterPackage("9.2.0", BROKEN));
    expect(code).not.toBe(0);
    expect(out).toMatch(/the database could not be migrated, and was not changed\. Version 9\.1\.0 goes on\./);
    expect(await migrations()).toBe(before);
    expect(await switchLamp("off")).toMatchObject({ outcome: "delivered" });
    expect(await endServer()).toBe(true);
    startServer("/var/lib/bold-relay/previous/bin/bold-relay-server");
    expect(await eventually(isReady, 60_000)).toBe(true);
    expect(await switchLamp("on")).toMatchObject({ outcome: "delivered" });
  });

  it("goes on where it stopped, once the cause is gone", async () => {
    rmSync(root.at("usr/lib/bold-relay/packages/service/migrations/9001_broken.sql"));
    await root.must("dpkg --configure bold-relay");
    expect(root.has("var/lib/bold-relay/previous")).toBe(false);
  });

  it("keeps settings and data when it is removed, and finds them again", async () => {
    await endServer();
    await root.must("apt-get remove -y -q bold-relay");
    expect(root.read(SETTINGS)).toBe(settings);
    expect(root.has("usr/lib/bold-relay/node")).toBe(false);
    expect((await install(await laterPackage("9.3.0", LATER))).code).toBe(0);
    startServer("/usr/bin/bold-relay-server");
    expect(await eventually(isReady, 60_000)).toBe(true);
    expect(await switchLamp("off")).toMatchObject({ outcome: "delivered" });
  });

  it("is purged without a rest: neither settings nor secrets, database, role or user", async () => {
    await board.stop();
    await endServer();
    root.signal("bold-relay/broker/mosquitto.conf", "SIGTERM");
    await root.must("apt-get purge -y -q bold-relay");
    for (const place of ["etc/bold-relay", "var/lib/bold-relay", "usr/lib/bold-relay", "usr/share/doc/bold-relay"])
      expect([place, root.has(place)]).toEqual([place, false]);
    const databases = await root.must(
      "cd / && runuser -u postgres -- psql -tAc 'select datname from pg_database union select rolname from pg_roles'",
    );
    expect(databases).not.toContain("bold_relay");
    expect(root.read("etc/passwd")).not.toContain("bold-relay");
  });

  it("has an archive beside it that leads to a lamp by the five commands of its page", async () => {
    const commands = archiveCommands();
    expect(commands).toHaveLength(5);
    cpSync(archive(), root.at(`root/${path.basename(archive())}`));
    const [install = "", unpack = "", prepare = "", broker = "", start = ""] = commands;
    await root.must(install);
    await root.must(`cd /root && ${unpack}`);
    const prepared = await root.must(prepare.replace("192.0.2.10", "127.0.0.1"));
    expect(prepared).toContain(`Next:\n  ${broker}\n  ${start}`);
    // Whoever runs it again loses nothing.
    const settingsBefore = root.read("etc/bold-relay/bold-relay.env");
    await root.must(prepare);
    expect(root.read("etc/bold-relay/bold-relay.env")).toBe(settingsBefore);
    await root.must(broker);
    root.start(start);
    expect(await eventually(isReady, 60_000)).toBe(true);
    expect(await root.must(start.replace(" start ", " check "))).toContain("Errors: 0.");
    const link = /http\S+/.exec(await root.must(start.replace(" start ", " setup ")))?.[0] ?? "";
    const page = await openPage(browser ?? (await openBrowser()), []);
    const brokerCa = root.at("etc/bold-relay/broker-ca.pem");
    const lamp = await walkFirstRun({ page, link, brokerCa });
    owner = await signIn(CONSOLE, OWNER);
    expect(await switchLamp("off")).toMatchObject({ outcome: "delivered" });
    await lamp.stop();
    await endServer();
    root.signal("broker/mosquitto.conf", "SIGTERM");
  });
});
