/** A clean Debian in a folder, and what is done in it as its root. Only the root of this machine can make one. */
import { execFile, execFileSync, spawn, spawnSync } from "node:child_process";
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  readlinkSync,
  rmSync,
  writeFileSync,
} from "node:fs";
import { connect } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";

export interface Done {
  readonly code: number;
  readonly out: string;
}

/** Ports that the package uses: the network is this machine's. */
const PORTS = [4180, 5432, 8883, 18830];

/** @returns why no Debian can be made here; null: one can */
export async function whyNotHere(): Promise<string | null> {
  if (process.getuid?.() !== 0) return "only root can make a Debian root";
  if (process.arch !== "x64") return "the package is for amd64";
  if (spawnSync("debootstrap", ["--version"]).status !== 0) return "debootstrap is not installed";
  if (!mayMount()) return "this machine lets nobody mount";
  for (const port of PORTS) if (await isTaken(port)) return `port ${port} is taken on this machine`;
  return null;
}

function mayMount(): boolean {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-mount-"));
  const { status } = spawnSync("mount", ["-t", "tmpfs", "tmpfs", folder]);
  if (status === 0) spawnSync("umount", [folder]);
  rmSync(folder, { recursive: true });
  return status === 0;
}

function isTaken(port: number): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect({ port, host: "127.0.0.1" });
    socket.once("connect", () => {
      socket.destroy();
      resolve(true);
    });
    socket.once("error", () => resolve(false));
  });
}

export class DebianRoot {
  readonly folder: string;

  constructor() {
    this.folder = mkdtempSync(path.join(tmpdir(), "bold-relay-debian-"));
    // It becomes "/", which every user of the system must be able to enter.
    chmodSync(this.folder, 0o755);
  }

  /** Debian 12 with nothing but what every Debian has; from where this machine gets its packages. */
  async make(): Promise<void> {
    const sources = readdirSync("/etc/apt/sources.list.d").find((name) => name.endsWith(".sources"));
    const text = sources
      ? readFileSync(`/etc/apt/sources.list.d/${sources}`, "utf8")
      : readFileSync("/etc/apt/sources.list", "utf8");
    const mirror = /^URIs:\s*(\S+)/m.exec(text)?.[1] ?? /^deb\s+(?:\[[^\]]*\]\s+)?(\S+)/m.exec(text)?.[1] ?? "";
    const { code, out } = await finished("debootstrap", ["--variant=minbase", "bookworm", this.folder, mirror]);
    if (code !== 0) throw new Error(`debootstrap ended with ${code}:\n${out.slice(-3_000)}`);
    rmSync(this.at("etc/apt"), { recursive: true });
    cpSync("/etc/apt", this.at("etc/apt"), { recursive: true });
    for (const [kind, place] of [
      ["proc", "proc"],
      ["tmpfs", "dev/shm"],
    ] as const)
      execFileSync("mount", ["-t", kind, kind, this.at(place)]);
    // No init runs here: the database is started by its own script, everything else by the test.
    this.write("usr/sbin/policy-rc.d", '#!/bin/sh\n[ "$1" = postgresql ] && exit 0\nexit 101\n', 0o755);
    await this.run("apt-get update -qq");
  }

  at(place: string): string {
    return path.join(this.folder, place);
  }

  write(place: string, text: string, mode = 0o644): void {
    writeFileSync(this.at(place), text, { mode });
  }

  read(place: string): string {
    return readFileSync(this.at(place), "utf8");
  }

  has(place: string): boolean {
    return existsSync(this.at(place));
  }

  /** Runs a shell line as its root. The stand-in boards and the connections of a test live on meanwhile. */
  run(line: string): Promise<Done> {
    const environment = { PATH: "/usr/sbin:/usr/bin:/sbin:/bin", DEBIAN_FRONTEND: "noninteractive", LC_ALL: "C.UTF-8" };
    return finished("chroot", [this.folder, "sh", "-c", line], environment);
  }

  /** @throws Error with what it said, when it fails */
  async must(line: string): Promise<string> {
    const { code, out } = await this.run(line);
    if (code !== 0) throw new Error(`${line} ended with ${code}:\n${out.slice(-3_000)}`);
    return out;
  }

  /** Starts a program that goes on. */
  start(line: string): void {
    spawn("chroot", [this.folder, "sh", "-c", `exec ${line}`], { stdio: "ignore", detached: true }).unref();
  }

  /** Sends a signal to what runs in it with these words in its command line. */
  signal(words: string, signal: NodeJS.Signals): void {
    for (const pid of this.processes()) if (commandLine(pid).includes(words)) process.kill(pid, signal);
  }

  /** Ends all that runs in it, and removes it. */
  destroy(): void {
    for (const pid of this.processes()) process.kill(pid, "SIGKILL");
    for (const place of ["dev/shm", "proc"]) spawnSync("umount", ["-l", this.at(place)]);
    rmSync(this.folder, { recursive: true, force: true, maxRetries: 20 });
  }

  private processes(): number[] {
    const all = readdirSync("/proc").filter((name) => /^\d+$/.test(name));
    return all.filter((pid) => rootOf(pid) === this.folder).map(Number);
  }
}

/** Runs a program to its end without blocking this process. */
function finished(program: string, argv: readonly string[], env: NodeJS.ProcessEnv = process.env): Promise<Done> {
  return new Promise((resolve) => {
    execFile(program, argv, { env, maxBuffer: 64_000_000 }, (error, stdout, stderr) => {
      const code = error === null ? 0 : typeof error.code === "number" ? error.code : 1;
      resolve({ code, out: `${stdout}${stderr}` });
    });
  });
}

/** @returns null: it has ended meanwhile */
function rootOf(pid: string): string | null {
  try {
    return readlinkSync(`/proc/${pid}/root`);
  } catch {
    return null;
  }
}

function commandLine(pid: number): string {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, "utf8").replaceAll("\0", " ");
  } catch {
    return "";
  }
}
