/** A control group of Linux that bounds the memory of the processes in it, version 1 or 2. Needs root. */
import { existsSync, mkdirSync, readFileSync, rmdirSync, writeFileSync } from "node:fs";
import path from "node:path";

const ROOT = "/sys/fs/cgroup";

export interface MemoryUse {
  /** The most that was used at once, caches of files included, MB. */
  readonly mostMb: number;
  /** Of processes, without caches of files, MB. */
  readonly processesMb: number;
  /** Processes that the system ended because nothing was left. */
  readonly killed: number;
}

export class MemoryLimit {
  private readonly folder: string;
  private readonly home: string;
  private readonly isSecond = existsSync(path.join(ROOT, "cgroup.controllers"));

  /** @throws Error where this machine lets nobody make one */
  constructor(name: string, megabytes: number) {
    const root = this.isSecond ? ROOT : path.join(ROOT, "memory");
    this.folder = path.join(root, name);
    this.home = path.join(root, ownGroup(this.isSecond));
    mkdirSync(this.folder);
    const bytes = String(megabytes * 1_048_576);
    if (this.isSecond) {
      writeFileSync(path.join(root, "cgroup.subtree_control"), "+memory");
      this.write("memory.max", bytes);
      this.write("memory.swap.max", "0");
    } else {
      this.write("memory.limit_in_bytes", bytes);
    }
  }

  /** What this process starts from now on is in it. */
  enter(): void {
    this.write("cgroup.procs", String(process.pid));
  }

  /** This process is not; what it has started stays. */
  leave(): void {
    writeFileSync(path.join(this.home, "cgroup.procs"), String(process.pid));
  }

  use(): MemoryUse {
    const stat = this.read("memory.stat");
    const field = (name: string) => Number(new RegExp(`^${name} (\\d+)$`, "m").exec(stat)?.[1] ?? 0) / 1_048_576;
    const most = this.read(this.isSecond ? "memory.peak" : "memory.max_usage_in_bytes");
    const events = this.read(this.isSecond ? "memory.events" : "memory.oom_control");
    return {
      mostMb: Number(most) / 1_048_576,
      processesMb: this.isSecond ? field("anon") + field("shmem") : field("total_rss") + field("total_shmem"),
      killed: Number(/^oom_kill (\d+)$/m.exec(events)?.[1] ?? 0),
    };
  }

  /** Once nothing runs in it. */
  remove(): void {
    rmdirSync(this.folder);
  }

  private read(name: string): string {
    return readFileSync(path.join(this.folder, name), "utf8");
  }

  private write(name: string, text: string): void {
    writeFileSync(path.join(this.folder, name), text);
  }
}

/** Where this process is, as a path below the root. */
function ownGroup(isSecond: boolean): string {
  const lines = readFileSync("/proc/self/cgroup", "utf8").split("\n");
  const own = lines.find((line) => (isSecond ? line.startsWith("0::") : line.split(":")[1] === "memory"));
  return own?.split(":")[2] ?? "/";
}
