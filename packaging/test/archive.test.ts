/** The archive as it is used: unpacked by somebody without root, with their own database and broker, and without a Node.js. */
import { execFileSync, spawn } from "node:child_process";
import { createHash } from "node:crypto";
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import {
  type Broker,
  createServiceDatabase,
  ensurePackages,
  eventually,
  findPrograms,
  freePort,
  type Postgres,
  startBroker,
  startPostgres,
} from "@bold-relay/rig";
import type { RelayBoard } from "@bold-relay/standins";
import { afterAll, beforeAll, expect, inject, it } from "vitest";
import { openBrowser, openPage } from "../../packages/console/test/support/browser.ts";
import { walkFirstRun } from "../../packages/console/test/support/first-run-walk.ts";

const ADMIN = "an admin's password";
/** Whoever runs it, root is not needed. */
const NOBODY = process.getuid?.() === 0 ? { uid: 65_534, gid: 65_534 } : {};

let folder: string;
let home: string;
let postgres: Postgres;
let broker: Broker;
let settings: Record<string, string>;

beforeAll(async () => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-archive-"));
  chmodSync(folder, 0o755);
  execFileSync("tar", ["-xzf", archiveIn(inject("packages")), "-C", folder]);
  home = path.join(folder, readdirSync(folder)[0] ?? "");
  ensurePackages(["postgresql", "mosquitto", "openssl"], () => {});
  const programs = findPrograms();
  const at = (name: string) => path.join(folder, name);
  postgres = await startPostgres({
    programs,
    folder: at("database"),
    port: await freePort(),
    password: "x",
    fsync: false,
  });
  const users = [{ name: "service", password: "a service's password", topics: "service" as const }];
  const ports = { port: await freePort(), devicePort: await freePort() };
  broker = await startBroker({ programs, folder: at("broker"), ...ports, users, adminPassword: ADMIN });
  // What the service's user may read and write.
  const ca = at("broker-ca.pem");
  writeFileSync(ca, readFileSync(broker.devices?.ca ?? ""), { mode: 0o644 });
  mkdirSync(at("mine"));
  chmodSync(at("mine"), 0o777);
  settings = {
    BOLD_RELAY_DATABASE_URL: await createServiceDatabase(programs, postgres.url("postgres"), "archive"),
    BOLD_RELAY_BROKER_URL: broker.url,
    BOLD_RELAY_BROKER_USER: "service",
    BOLD_RELAY_BROKER_PASSWORD: "a service's password",
    BOLD_RELAY_BROKER_ADMIN_USER: "admin",
    BOLD_RELAY_BROKER_ADMIN_PASSWORD: ADMIN,
    BOLD_RELAY_DEVICE_BROKER_URL: broker.devices?.url ?? "",
    BOLD_RELAY_DEVICE_BROKER_CA_FILE: ca,
    BOLD_RELAY_PORT: String(await freePort()),
  };
});
afterAll(async () => {
  await broker?.stop();
  await postgres?.stop();
  rmSync(folder, { recursive: true, force: true });
});

function archiveIn(where: string): string {
  const name = readdirSync(where).find((one) => one.endsWith(".tar.gz"));
  return path.join(where, name ?? "no-archive");
}

/** Nothing of this machine's Node.js is on the path. */
const environment = () => ({ PATH: "/usr/bin:/bin", ...settings });
const run = (program: string, ...words: string[]) =>
  execFileSync(path.join(home, "bin", program), words, { env: environment(), encoding: "utf8", cwd: "/", ...NOBODY });

it("is made the same again", () => {
  const again = path.join(folder, "again");
  execFileSync(process.execPath, ["packaging/build.mjs", "--only", "archive", "--out", again], { stdio: "ignore" });
  const hash = (file: string) => createHash("sha256").update(readFileSync(file)).digest("hex");
  expect(hash(archiveIn(again))).toBe(hash(archiveIn(inject("packages"))));
});

it("brings its own Node.js 24 and says what it was built from", () => {
  const { version } = JSON.parse(readFileSync("package.json", "utf8")) as { version: string };
  const node = execFileSync(path.join(home, "node/node"), ["--version"], { encoding: "utf8" });
  expect(node).toMatch(/^v24\./);
  for (const program of ["bold-relay", "bold-relay-server"])
    expect(run(program, "--version")).toMatch(
      new RegExp(`^${version.replaceAll(".", "\\.")} \\(build [0-9a-f]{12}\\)\n$`),
    );
});

it("holds what runs, and nothing that builds, tests or watches", () => {
  const modules = readdirSync(path.join(home, "node_modules"));
  for (const name of ["express", "pg", "joi", "mqtt"]) expect(modules).toContain(name);
  for (const name of ["typescript", "vitest", "vite", "react", "fast-check", "playwright-core", "eslint"])
    expect(modules).not.toContain(name);
  expect(readdirSync(path.join(home, "packages")).sort()).toEqual([
    "api",
    "cli",
    "console",
    "core",
    "service",
    "translators",
  ]);
  // Each of ours finds each of its dependencies in the version that it asks for.
  for (const name of ["api", "cli", "service", "translators"]) {
    const folder = path.join(home, "packages", name);
    const { dependencies } = JSON.parse(readFileSync(path.join(folder, "package.json"), "utf8")) as {
      dependencies: Record<string, string>;
    };
    for (const [dependency, version] of Object.entries(dependencies).filter(
      ([one]) => !one.startsWith("@bold-relay/"),
    )) {
      const places = [path.join(folder, "node_modules", dependency), path.join(home, "node_modules", dependency)];
      const place = places.find((one) => existsSync(path.join(one, "package.json"))) ?? dependency;
      const found = JSON.parse(readFileSync(path.join(place, "package.json"), "utf8")) as { version: string };
      expect([name, dependency, found.version]).toEqual([name, dependency, version]);
    }
  }
  const files = readdirSync(home, { recursive: true, encoding: "utf8" });
  expect(files.filter((file) => /\.(map|tsbuildinfo)$|(^|\/)\.env/.test(file))).toEqual([]);
  const open = files.filter((file) => (statSync(path.join(home, file)).mode & 0o022) !== 0);
  expect(open).toEqual([]);
});

it("has documents for somebody who has neither a clone nor its tools", () => {
  const pages = readdirSync(home, { recursive: true, encoding: "utf8" }).filter(
    (file) => /^(docs|examples)\/.*\.md$|^[A-Z]+\.md$/.test(file) && file !== "CHANGELOG.md",
  );
  expect(pages).toContain("docs/how-to/install.md");
  expect(pages).not.toContain("docs/start.md");
  for (const file of pages) {
    const text = readFileSync(path.join(home, file), "utf8");
    expect([file, /\bnpx\b|in (?:the|a) clone|\.demo\/|^node /m.exec(text)?.[0] ?? null]).toEqual([file, null]);
    for (const [, link = ""] of text.replace(/```[\s\S]*?```|`[^`]*`/g, "").matchAll(/\]\(([^)\s#]+)[^)]*\)/g))
      if (!/^[a-z]+:/.test(link))
        expect([file, link, existsSync(path.join(home, path.dirname(file), link))]).toEqual([file, link, true]);
  }
});

it("checks what it is given, starts without root, and leads its first owner to a request that arrives", async () => {
  expect(run("bold-relay-server", "check")).toContain("Errors: 0.");
  const server = spawn(path.join(home, "bin/bold-relay-server"), ["start"], {
    env: environment(),
    stdio: "ignore",
    cwd: "/",
    ...NOBODY,
  });
  const ended = new Promise<number | null>((resolve) => server.once("close", resolve));
  const url = `http://127.0.0.1:${settings.BOLD_RELAY_PORT}`;
  const browser = await openBrowser();
  let board: RelayBoard | null = null;
  try {
    const ready = async () => (await fetch(`${url}/health/ready`).catch(() => null))?.ok === true;
    expect(await eventually(ready, 60_000)).toBe(true);
    const link = /http\S+/.exec(run("bold-relay-server", "setup"))?.[0] ?? "";
    const page = await openPage(browser, []);
    board = await walkFirstRun({ page, link, brokerCa: settings.BOLD_RELAY_DEVICE_BROKER_CA_FILE ?? "" });
    for (const verb of ["backup", "export"]) {
      const file = path.join(folder, "mine", `first.${verb}`);
      run("bold-relay-server", verb, file);
      expect(existsSync(file)).toBe(true);
    }
  } finally {
    await board?.stop();
    await browser.close();
    server.kill("SIGTERM");
  }
  expect(await ended).toBe(0);
});
