/** In a thread of its own: how long the service answers nothing, and how long a switch takes until it is accepted. */
import { parentPort, workerData } from "node:worker_threads";
import { HttpAsker } from "./http-asker.ts";

export interface Probed {
  /** The longest time for an answer that takes nothing but the event loop. */
  readonly stallMs: number;
  /** ms, sorted. */
  readonly switches: readonly number[];
}

const { url, key, target } = workerData as { url: string; key: string; target: string };
const EVERY_MS = 5;

let isOn = false;
let stallMs = 0;
let switches: number[] = [];

parentPort?.on("message", (word: "start" | "stop") => {
  isOn = word === "start";
  if (isOn) {
    stallMs = 0;
    switches = [];
  } else {
    parentPort?.postMessage({ stallMs, switches: [...switches].sort((one, other) => one - other) } satisfies Probed);
  }
});

void forever(async () => {
  const startedAt = performance.now();
  await (await fetch(`${url}/health/live`)).arrayBuffer();
  if (isOn) stallMs = Math.max(stallMs, performance.now() - startedAt);
});

const asker = new HttpAsker(new URL(`${url}/api/v1/requests`), [`authorization: Bearer ${key}`]);
let turn = 0;
void forever(async () => {
  turn += 1;
  const startedAt = performance.now();
  await asker.call(JSON.stringify({ target, action: turn % 2 ? "on" : "off" }), "");
  if (isOn) switches.push(performance.now() - startedAt);
});

async function forever(work: () => Promise<void>): Promise<void> {
  for (;;) {
    await work().catch(() => {});
    await new Promise((resolve) => setTimeout(resolve, EVERY_MS));
  }
}
