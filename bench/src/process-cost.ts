/** What a process has used so far, from /proc (Linux). */
import { readdirSync, readFileSync } from "node:fs";

const TICKS_PER_SECOND = 100;

/** User and system CPU time, µs. @param withEnded that of its children that have ended too */
export function cpuMicroseconds(pid: number, withEnded = false): number {
  const fields = readFileSync(`/proc/${pid}/stat`, "utf8")
    .replace(/^.*\) /, "")
    .split(" ");
  // utime, stime; cutime, cstime: proc(5), counted without pid and name.
  const ticks = fields.slice(11, withEnded ? 15 : 13).reduce((sum, field) => sum + Number(field), 0);
  return (ticks / TICKS_PER_SECOND) * 1_000_000;
}

/** CPU time of a process and its children, µs: a database has one for every connection. Those that have ended count too. */
export function treeCpuMicroseconds(pid: number): number {
  const children = readdirSync("/proc").filter((name) => /^\d+$/.test(name) && parentOf(Number(name)) === pid);
  return children.reduce((sum, child) => sum + cpuMicroseconds(Number(child)), cpuMicroseconds(pid, true));
}

function parentOf(pid: number): number | null {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, "utf8").replace(/^.*\) /, "");
    return Number(stat.split(" ")[1]);
  } catch {
    // It ended while we were looking.
    return null;
  }
}

/** Resident memory, MB. */
export function residentMb(pid: number): number {
  const match = /VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"));
  return Number(match?.[1] ?? Number.NaN) / 1024;
}
