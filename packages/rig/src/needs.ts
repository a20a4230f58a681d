/** Finds the servers that Debian's packages bring, and installs them where that is allowed. */
import { execFileSync, spawnSync } from "node:child_process";
import { existsSync, readdirSync } from "node:fs";

export interface Programs {
  readonly initdb: string;
  readonly postgres: string;
  readonly pgIsReady: string;
  readonly psql: string;
  readonly mosquitto: string;
  /** The broker's plugin for users that are made while it runs. */
  readonly dynamicSecurity: string;
}

/** Debian package → what tells whether it is there: a program, a file. */
const PACKAGES = {
  postgresql: findPostgres,
  mosquitto: () => find("mosquitto"),
  chromium: () => find("chromium"),
  openssl: () => find("openssl"),
  socat: () => find("socat"),
  curl: () => find("curl"),
  jq: () => find("jq"),
  "mosquitto-clients": () => find("mosquitto_sub"),
  gcc: () => find("gcc"),
  "libc6-dev": () => findFile("/usr/include/stdio.h"),
  "libmosquitto-dev": () => findFile("/usr/include/mosquitto.h"),
  "libcjson-dev": () => findFile("/usr/include/cjson/cJSON.h"),
  patroni: () => find("patroni"),
  "etcd-server": () => find("etcd"),
  haproxy: () => find("haproxy"),
  keepalived: () => find("keepalived"),
  iproute2: () => find("ip"),
  debootstrap: () => find("debootstrap"),
  lintian: () => find("lintian"),
  binutils: () => find("strip"),
  python3: () => findFile("/usr/bin/python3"),
  "python3-paho-mqtt": () => findFile("/usr/lib/python3/dist-packages/paho/mqtt/client.py"),
};
export type PackageName = keyof typeof PACKAGES;

/**
 * Makes sure that these packages are there.
 *
 * @param say told of long work
 * @throws Error with the one line to run, when they are missing and this is not root on Debian
 */
export function ensurePackages(names: readonly PackageName[], say: (line: string) => void): void {
  const missing = names.filter((name) => PACKAGES[name]() === null);
  if (missing.length === 0) return;
  const line = `apt-get install -y ${missing.join(" ")}`;
  if (process.getuid?.() !== 0 || find("apt-get") === null) {
    throw new Error(`Missing on this machine: ${missing.join(", ")}. Run this as root, then start again:  ${line}`);
  }
  say(`Installing ${missing.join(", ")} from Debian's packages; this takes a minute the first time`);
  const env = { ...process.env, DEBIAN_FRONTEND: "noninteractive" };
  for (const words of [
    ["update", "-qq"],
    ["install", "-y", "-qq", "--no-install-recommends", ...missing],
  ]) {
    const { status, stderr } = spawnSync("apt-get", words, { env, encoding: "utf8" });
    if (status !== 0) throw new Error(`apt-get ${words.join(" ")} failed:\n${stderr.trim().slice(-600)}`);
  }
}

/** @throws Error when `ensurePackages` was not called before */
export function findPrograms(): Programs {
  const folder = findPostgres();
  const mosquitto = find("mosquitto");
  if (!folder || !mosquitto) throw new Error("PostgreSQL or mosquitto is missing on this machine.");
  return {
    initdb: `${folder}/initdb`,
    postgres: `${folder}/postgres`,
    pgIsReady: `${folder}/pg_isready`,
    psql: `${folder}/psql`,
    mosquitto,
    dynamicSecurity: findPlugin("mosquitto_dynamic_security.so"),
  };
}

/** Debian keeps libraries in a folder by machine. */
function findPlugin(name: string): string {
  const folders = readdirSync("/usr/lib").map((folder) => `/usr/lib/${folder}`);
  return [...folders, "/usr/lib"].map((folder) => `${folder}/${name}`).find((file) => existsSync(file)) ?? name;
}

/** The newest server's folder; Debian keeps it out of PATH. */
function findPostgres(): string | null {
  const root = "/usr/lib/postgresql";
  if (!existsSync(root)) return null;
  const versions = readdirSync(root)
    .map(Number)
    .filter(Number.isFinite)
    .sort((one, other) => other - one);
  const folder = versions.map((version) => `${root}/${version}/bin`).find((bin) => existsSync(`${bin}/postgres`));
  return folder ?? null;
}

const findFile = (file: string): string | null => (existsSync(file) ? file : null);

function find(program: string): string | null {
  const folders = [...(process.env.PATH ?? "").split(":"), "/usr/sbin", "/usr/bin"];
  return folders.map((folder) => `${folder}/${program}`).find((path) => existsSync(path)) ?? null;
}

/** The system user that a server runs as when this is root; servers refuse to run as root, rightly. */
export interface RunAs {
  readonly uid: number;
  readonly gid: number;
}

/** null when this is not root: then servers run as whoever this is. */
export function serverUser(name: "postgres" | "mosquitto"): RunAs | null {
  if (process.getuid?.() !== 0) return null;
  const id = (flag: string) => Number(execFileSync("id", [flag, name], { encoding: "utf8" }));
  return { uid: id("-u"), gid: id("-g") };
}
