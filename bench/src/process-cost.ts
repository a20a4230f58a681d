/** What a process has used so far, from /proc (Linux). */
import { readFileSync } from "node:fs";

const TICKS_PER_SECOND = 100;

/** User and system CPU time, µs. */
export function cpuMicroseconds(pid: number): number {
  const fields = readFileSync(`/proc/${pid}/stat`, "utf8")
    .replace(/^.*\) /, "")
    .split(" ");
  return ((Number(fields[11]) + Number(fields[12])) / TICKS_PER_SECOND) * 1_000_000;
}

/** Resident memory, MB. */
export function residentMb(pid: number): number {
  const match = /VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, "utf8"));
  return Number(match?.[1] ?? Number.NaN) / 1024;
}
