/**
 * How much memory the engine may keep. It trades memory for collecting less often, more than a machine that also runs a database and a
 * broker has to give (docs/benchmark.md).
 */
import { Session } from "node:inspector";
import { setFlagsFromString } from "node:v8";
import type { Log } from "./log.ts";

/** Before anything else is done. */
export function boundMemory(): void {
  // The young garbage is collected often, and there is little of it: helpers for that cost more than they bring, above all where
  // database and broker want the other cores.
  setFlagsFromString("--no-parallel-scavenge");
  // What is kept may grow by half before it is looked through again; by itself the engine lets it become four times as much.
  setFlagsFromString("--heap-growing-percent=50");
}

/** How often it is looked whether the process is idle, ms. */
const LOOK_EVERY_MS = 15_000;
/** Share of one core below which a process counts as idle. */
const IDLE_SHARE = 0.05;
/** So much memory must have come since the last time, and so much time must have passed: for much of it sooner. */
const WORTH = [
  { moreMb: 16, agoMs: 600_000 },
  { moreMb: 64, agoMs: 60_000 },
] as const;

/** What is known when it is decided whether memory is given back. */
export interface MemoryUse {
  /** Of one core, since the last look, 0 to 1 and more. */
  readonly cpuShare: number;
  readonly residentMb: number;
  /** When memory was last given back, how long ago, ms, and what was left; null: it never was. */
  readonly last: { readonly agoMs: number; readonly residentMb: number } | null;
}

/** Giving back stops the event loop for a tenth of a second or so: only where hardly anybody waits, seldom, and for something. */
export function isWorthGivingBack({ cpuShare, residentMb, last }: MemoryUse): boolean {
  if (cpuShare >= IDLE_SHARE) return false;
  return (
    last === null || WORTH.some(({ moreMb, agoMs }) => last.agoMs >= agoMs && residentMb >= last.residentMb + moreMb)
  );
}

/** Looks from time to time, for as long as the process runs. */
export function giveBackWhenIdle(log: Log): void {
  let last: { readonly at: number; readonly residentMb: number } | null = null;
  let [cpu, lookedAt] = [process.cpuUsage(), performance.now()];
  const look = async (): Promise<void> => {
    const now = performance.now();
    const { user, system } = process.cpuUsage(cpu);
    const cpuShare = (user + system) / 1_000 / (now - lookedAt);
    [cpu, lookedAt] = [process.cpuUsage(), now];
    const before = residentMb();
    const ago = last && { agoMs: now - last.at, residentMb: last.residentMb };
    if (!isWorthGivingBack({ cpuShare, residentMb: before, last: ago })) return;
    const ms = await giveBack();
    last = { at: performance.now(), residentMb: residentMb() };
    log.debug(
      { fromMb: Math.round(before), toMb: Math.round(last.residentMb), ms: Math.round(ms) },
      "memory given back",
    );
  };
  const tryToLook = () => look().catch((error: unknown) => log.warn({ err: error }, "memory could not be given back"));
  setInterval(() => void tryToLook(), LOOK_EVERY_MS).unref();
}

/**
 * Collects all garbage and returns the pages to the system, those of the young generation too. The engine has one documented call that
 * does this: the inspector's, from within.
 *
 * @returns how long it took, ms; rejects where the engine refuses it
 */
export function giveBack(): Promise<number> {
  const session = new Session();
  session.connect();
  const startedAt = performance.now();
  return new Promise((resolve, reject) => {
    session.post("HeapProfiler.collectGarbage", (error) => {
      const ms = performance.now() - startedAt;
      // One turn later: a session that is ended while it answers never comes back.
      setImmediate(() => {
        session.disconnect();
        if (error) reject(error);
        else resolve(ms);
      });
    });
  });
}

function residentMb(): number {
  return process.memoryUsage.rss() / 1_048_576;
}
