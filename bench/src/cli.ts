/** `npm run bench:cli`: how long verbs of the command line take, as multiples of a Node.js that does nothing. */
import { spawn } from "node:child_process";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import Table from "cli-table3";
import { openServers, SECRET, type Stops, setUpMember, setUpSite, startMeasured, stopping } from "./bench-site.ts";

const { values } = parseArgs({
  options: {
    /** Starts of each verb, in turn. */
    runs: { type: "string", default: "21" },
  },
});

const CLI = fileURLToPath(new URL("../../packages/cli/bin/bold-relay.js", import.meta.url));

interface Verb {
  readonly words: readonly string[];
  /** null: it is told for comparison. */
  readonly aim: number | null;
  /** It goes on until it is stopped: measured is its first output. */
  readonly live?: true;
}

const VERBS: readonly Verb[] = [
  { words: ["--version"], aim: 1.6 },
  { words: ["status"], aim: 3 },
  { words: ["watch", "--json"], aim: 3, live: true },
  { words: ["completion", "bash"], aim: 3 },
  { words: ["completion", "--addresses", "channels"], aim: 3 },
  { words: ["state"], aim: null },
  { words: ["--help"], aim: null },
];

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("cli", stops);
  await setUpSite(databaseUrl, folder, 16);
  const key = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  const env = { ...process.env, BOLD_RELAY_URL: url, BOLD_RELAY_KEY: key };
  const nothing: number[] = [];
  const times = VERBS.map((): number[] => []);
  // In turn, so that a slow moment of the machine falls on all of them.
  for (let run = 0; run < Number(values.runs); run += 1) {
    nothing.push(await timeOf(["-e", "0"], env, false));
    for (const [place, { words, live }] of VERBS.entries())
      times[place]?.push(await timeOf([CLI, ...words], env, live === true));
  }
  const least = median(nothing);
  const table = new Table({ head: ["bold-relay …", "ms", "÷ node -e 0", "aim"], style: { head: [], border: [] } });
  table.push(["node -e 0", least.toFixed(0), "1.00", ""]);
  for (const [place, { words, aim }] of VERBS.entries()) {
    const ms = median(times[place] ?? []);
    table.push([words.join(" "), ms.toFixed(0), (ms / least).toFixed(2), aim === null ? "" : `≤ ${aim}`]);
  }
  process.stdout.write(`${table.toString()}\n`);
}

/** ms until it ended; of what goes on, until it said something. */
function timeOf(words: readonly string[], env: NodeJS.ProcessEnv, live: boolean): Promise<number> {
  return new Promise((resolve, reject) => {
    const startedAt = performance.now();
    const child = spawn(process.execPath, words, { env, stdio: ["ignore", "pipe", "inherit"] });
    const end = () => resolve(performance.now() - startedAt);
    child.on("error", reject);
    child.stdout.once("data", () => {
      if (!live) return;
      end();
      child.kill();
    });
    child.stdout.resume();
    child.on("exit", (code) => {
      if (live) return;
      if (code === 0) end();
      else reject(new Error(`bold-relay ${words.slice(1).join(" ")} ended with ${code}`));
    });
  });
}

function median(figures: readonly number[]): number {
  return [...figures].sort((one, other) => one - other)[Math.floor(figures.length / 2)] ?? Number.NaN;
}
