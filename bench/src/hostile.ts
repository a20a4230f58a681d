/**
 * `npm run bench:hostile`: the longest that any single call holds the event loop, and what a switch at another site waits meanwhile.
 * Each call is as big or as bad as the limits allow, and is made again and again while another thread asks for something small.
 *
 * `--without-key`: only what somebody without a key can do.
 */
import { parseArgs } from "node:util";
import { Worker } from "node:worker_threads";
import Table from "cli-table3";
import {
  channelAddress,
  openServers,
  SECRET,
  type Stops,
  setUpMember,
  setUpSite,
  startMeasured,
  stopping,
} from "./bench-site.ts";
import { type HostileCall, hostileCalls } from "./hostile-calls.ts";
import type { Probed } from "./hostile-probe.ts";
import { attacksWithoutKey } from "./hostile-without-key.ts";

const { values } = parseArgs({
  options: { seconds: { type: "string", default: "4" }, "without-key": { type: "boolean", default: false } },
});
const EACH_MS = Number(values.seconds) * 1_000;

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("hostile", stops);
  const inletKey = await setUpSite(databaseUrl, folder, 16);
  const key = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  await arrive(url, inletKey, 200);
  const probe = new Worker(new URL("./hostile-probe.ts", import.meta.url), {
    workerData: { url, key, target: channelAddress("taker", 0) },
  });
  stops.push(async () => void (await probe.terminate()));

  const idle = await probed(probe, () => pause(EACH_MS));
  const rows = [row("nothing", idle, idle, "")];
  for (const { name, attack } of attacksWithoutKey) {
    const during = await probed(probe, () => repeated(() => attack(url)));
    rows.push(row(`without a key: ${name}`, during, idle, ""));
  }
  for (const call of values["without-key"] ? [] : hostileCalls()) {
    const answers = new Set<number>();
    const during = await probed(probe, () => hammer(url, key, call, answers));
    rows.push(row(call.name, during, idle, [...answers].join(" ")));
  }
  const table = new Table({
    head: ["meanwhile", "longest stall, ms", "switch p50, ms", "p99, ms", "p99 ÷ idle", "answers"],
    colAligns: ["left", "right", "right", "right", "right", "left"],
  });
  table.push(...rows);
  process.stdout.write(`${table.toString()}\n`);
}

function row(name: string, { stallMs, switches }: Probed, idle: Probed, answers: string): string[] {
  const p99 = at(switches, 0.99);
  return [
    name,
    stallMs.toFixed(0),
    at(switches, 0.5).toFixed(1),
    p99.toFixed(1),
    (p99 / at(idle.switches, 0.99)).toFixed(1),
    answers,
  ];
}

function at(sorted: readonly number[], share: number): number {
  return sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? 0;
}

async function probed(probe: Worker, work: () => Promise<void>): Promise<Probed> {
  probe.postMessage("start");
  await work();
  const answer = new Promise<Probed>((resolve) => probe.once("message", resolve));
  probe.postMessage("stop");
  return answer;
}

/** Arrivals that are there before: what is tried against them later takes that many matches. */
async function arrive(url: string, key: string, many: number): Promise<void> {
  const headers = { authorization: `Bearer ${key}`, "content-type": "application/json" };
  for (let turn = 0; turn < many; turn += 1) {
    const body = JSON.stringify({ target: channelAddress("taker", 1), action: turn % 2 ? "on" : "off" });
    await (await fetch(`${url}/in/bench`, { method: "POST", headers, body })).arrayBuffer();
  }
}

async function hammer(url: string, key: string, call: HostileCall, answers: Set<number>): Promise<void> {
  const until = performance.now() + EACH_MS;
  for (let turn = 0; performance.now() < until; turn += 1) {
    const made = await Promise.all(
      Array.from({ length: call.atOnce ?? 1 }, async () => {
        const headers = {
          authorization: `Bearer ${key}`,
          "content-type": "application/json",
          origin: url,
          ...call.headers,
        };
        try {
          const response = await fetch(url + call.path, {
            method: call.method,
            headers,
            body: call.body?.(turn) ?? null,
          });
          await response.arrayBuffer();
          return response.status;
        } catch {
          // What is too large is cut off while it is being sent.
          return 0;
        }
      }),
    );
    for (const status of made) answers.add(status);
    await pause(50);
  }
}

async function repeated(work: () => Promise<void>): Promise<void> {
  const until = performance.now() + EACH_MS;
  while (performance.now() < until) {
    await work();
    await pause(50);
  }
}

function pause(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}
