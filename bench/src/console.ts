/**
 * `npm run bench:console`: what the console costs a phone and a desk (Lighthouse, signed in, on the demo), what it weighs, and how a board
 * of 1 000 channels keeps up with 50 changes a second.
 */
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { openDemoStack } from "@bold-relay/rig/demo";
import Table from "cli-table3";
import { openServers, type Stops, setUpMember, setUpSite, startMeasured } from "./bench-site.ts";
import { type Audits, auditConsole } from "./console-audit.ts";
import { type BoardLoad, watchBusyBoard } from "./console-board.ts";
import { firstScripts } from "./console-weight.ts";
import { rangeText } from "./report.ts";

const { values } = parseArgs({
  options: {
    /** Audits of each form. */
    runs: { type: "string", default: "5" },
    /** s that the busy board is watched. */
    seconds: { type: "string", default: "10" },
  },
});

/** Relays that report, and as many that only answer: 1 000 rows of one site. */
const CHANNELS = 500;

const weight = firstScripts();
const audits = await withDemo();
const board = await withBigBoard();
print();

async function withDemo(): Promise<Audits> {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-console-"));
  const stack = await openDemoStack({ folder, newSecrets: true, fresh: true, say });
  try {
    return await auditConsole(stack.cliEnv.BOLD_RELAY_URL, stack.cliEnv.BOLD_RELAY_KEY, Number(values.runs), say);
  } finally {
    await stack.stop();
    rmSync(folder, { recursive: true, force: true });
  }
}

async function withBigBoard(): Promise<BoardLoad> {
  const stops: Stops = [];
  try {
    say("A board of 1 000 channels");
    const servers = await openServers("console", stops);
    await setUpSite(servers.databaseUrl, servers.folder, CHANNELS);
    const key = await setUpMember(servers.databaseUrl);
    const { url, service } = await startMeasured(servers.folder, servers.databaseUrl, servers.brokerUrl, "bench");
    stops.push(() => service.stop());
    return await watchBusyBoard({ url, key, brokerUrl: servers.brokerUrl, seconds: Number(values.seconds) });
  } finally {
    for (const stop of stops.reverse()) await stop();
  }
}

function print(): void {
  const table = new Table({ head: ["console", "measured", "aim"], style: { head: [], border: [] } });
  table.push(["script before the Board is usable, kB gzip", (weight.gzip / 1000).toFixed(1), "≤ 95"]);
  table.push(["the same, kB Brotli", (weight.brotli / 1000).toFixed(1), ""]);
  for (const [form, aim] of [
    ["mobile", 90],
    ["desktop", 98],
  ] as const) {
    const { performance, accessibility, bestPractices, firstPaintMs, largestPaintMs, blockedMs } = audits[form];
    table.push([`${form}: performance`, rangeText(performance), `≥ ${aim}`]);
    table.push([
      `${form}: accessibility, best practices`,
      `${Math.min(...accessibility)}, ${Math.min(...bestPractices)}`,
      "100",
    ]);
    table.push([
      `${form}: first paint, largest paint, blocked, ms`,
      [firstPaintMs, largestPaintMs, blockedMs].map(rangeText).join(", "),
      "",
    ]);
  }
  table.push([
    `board of ${board.channels} channels, ${board.changesPerSecond.toFixed(0)} changes/s: frames/s`,
    board.framesPerSecond.toFixed(1),
    "≥ 50",
  ]);
  table.push(["the same: slowest of 100 frames, ms", board.slowFrameMs.toFixed(0), ""]);
  table.push(["the same: script heap, MB", board.heapMb.toFixed(1), "≤ 60"]);
  process.stdout.write(`${table.toString()}\n`);
}

function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
