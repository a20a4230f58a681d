/** Starts the echo device beside a benchmark. */
import { type ChildProcess, fork } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";

/**
 * @param stops it is ended with what else was started
 * @throws Error when it ends before it listens: nothing could be measured, and a wait for it would last for ever
 */
export async function startEcho(brokerUrl: string, secret: string, stops: (() => unknown)[]): Promise<ChildProcess> {
  const echo = fork(fileURLToPath(new URL("./echo.ts", import.meta.url)), [brokerUrl, "bench", secret]);
  stops.push(() => void echo.kill());
  const listens = await Promise.race([once(echo, "message").then(() => true), once(echo, "exit").then(() => false)]);
  if (!listens) throw new Error("the echo device of the benchmark has ended before it listened");
  return echo;
}
