/**
 * `npm run bench:variants -- "here" "here --max-semi-space-size=32" "node=PATH" "checkout=PATH"`: the service beside itself with other flags,
 * on another Node.js, or as another built checkout has it. All run at the same time and are loaded in turns of a second: the machine is now
 * quick, now slow, so only neighbouring turns are compared.
 */
import path from "node:path";
import { pathToFileURL } from "node:url";
import { parseArgs } from "node:util";
import Table from "cli-table3";
import { INLET, openServers, SECRET, type Stops, stopping, type Variant } from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { type Ask, closedLoad, openLoad } from "./load.ts";
import { memoryParts } from "./memory.ts";
import { cpuMicroseconds, treeCpuMicroseconds } from "./process-cost.ts";
import { openRawPath } from "./raw-path.ts";
import { startEcho } from "./start-echo.ts";
import { openTopicPath } from "./topic-path.ts";

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    /** s of each load of a turn */
    seconds: { type: "string", default: "1" },
    rounds: { type: "string", default: "20" },
  },
});
const SECONDS = Number(values.seconds);
const ASKERS = 256;
const LOW_RATE = 50;

/** What one turn of a variant measured, by name of the row. */
type Measured = Readonly<Record<string, number>>;

const stops: Stops = [];
await stopping(stops, () => compare(positionals.length > 0 ? positionals : ["here"]));

async function compare(names: readonly string[]): Promise<void> {
  const benches = [];
  for (const name of names)
    benches.push({ name, measure: await openBench(variantOf(name)), figures: [] as Measured[] });
  for (let round = 1; round <= Number(values.rounds); round += 1) {
    process.stderr.write(`Round ${round} of ${values.rounds}\n`);
    // Every other round the other way round, so that none is always the first after a pause.
    const turns = round % 2 === 0 ? [...benches].reverse() : benches;
    for (const { measure, figures } of turns) figures.push(await measure());
  }
  const first = benches[0]?.figures ?? [];
  const table = new Table({ head: ["", ...names], style: { head: [], border: [] } });
  for (const row of Object.keys(first[0] ?? {})) {
    const cells = benches.map(({ figures }) => {
      const median = quartiles(figures.map((one) => one[row] ?? 0))[1].toPrecision(3);
      if (figures === first) return median;
      const [low, middle, high] = quartiles(figures.map((one, round) => (one[row] ?? 0) / (first[round]?.[row] ?? 0)));
      return `${median}; ${middle.toFixed(2)} (${low.toFixed(2)}-${high.toFixed(2)}) times`;
    });
    table.push([row, ...cells]);
  }
  process.stdout.write(
    `Medians; how many times the first, as the median (and the middle half) of pairs of turns.\n${table.toString()}\n`,
  );
}

/** Lower quartile, median and upper quartile. */
function quartiles(figures: readonly number[]): [number, number, number] {
  const sorted = [...figures].sort((one, other) => one - other);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN;
  return [at(0.25), at(0.5), at(0.75)];
}

interface RunningVariant extends Variant {
  /** The folder of another checkout that is built; left out: this one. Its schema may be another. */
  readonly checkout?: string;
}

/** @example variantOf("node=/opt/node24 --max-semi-space-size=16") // → { node: "/opt/node24", flags: ["--max-semi-space-size=16"] } */
function variantOf(text: string): RunningVariant {
  const words = text.split(" ").filter((word) => word !== "");
  const given = (name: string) => words.find((word) => word.startsWith(`${name}=`))?.slice(name.length + 1);
  const flags = words.filter((word) => word.startsWith("--"));
  const [node, checkout] = [given("node"), given("checkout")];
  return {
    ...(flags.length > 0 ? { flags } : {}),
    ...(node === undefined ? {} : { node }),
    ...(checkout === undefined ? {} : { checkout }),
  };
}

/** Servers of its own for each variant, so that none finds what another left; set up and started by the code of its checkout. */
async function openBench({ checkout, ...variant }: RunningVariant): Promise<() => Promise<Measured>> {
  const own = new URL("./bench-site.ts", import.meta.url).href;
  const site = checkout === undefined ? own : pathToFileURL(path.resolve(checkout, "bench/src/bench-site.ts")).href;
  const { setUpMember, setUpSite, startMeasured }: typeof import("./bench-site.ts") = await import(site);
  const { folder, databaseUrl, brokerUrl, postgres, broker } = await openServers("variants", stops);
  const key = await setUpSite(databaseUrl, folder, ASKERS);
  const member = await setUpMember(databaseUrl);
  const echo = await startEcho(brokerUrl, SECRET, stops);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET, variant);
  stops.push(() => service.stop());
  const raw = await openRawPath(brokerUrl, "bench", SECRET);
  stops.push(() => raw.stop());
  const http = openFullPath({ url, path: `/in/${INLET}`, key, connections: ASKERS });
  stops.push(() => http.stop());
  const topic = await openTopicPath({ brokerUrl, username: "bench", password: SECRET, url, key: member });
  stops.push(() => topic.stop());

  const processes = () => ({
    service: cpuMicroseconds(service.pid),
    database: treeCpuMicroseconds(postgres.child.pid),
    rest: cpuMicroseconds(broker.child.pid) + cpuMicroseconds(echo.pid ?? 0) + cpuMicroseconds(process.pid),
  });
  const loaded = async (ask: Ask) => {
    const before = processes();
    const { perSecond, count } = await closedLoad(ask, ASKERS, SECONDS);
    const after = processes();
    const spent = (part: keyof typeof before) => (after[part] - before[part]) / count;
    return { perSecond, service: spent("service"), database: spent("database"), rest: spent("rest") };
  };
  await closedLoad(raw.ask, ASKERS, 1);
  await closedLoad(http.ask("acknowledged"), ASKERS, 4);
  await closedLoad(topic.ask, ASKERS, 4);

  return async () => {
    const lowRaw = await openLoad(raw.ask, LOW_RATE, SECONDS, ASKERS);
    const accepted = await openLoad(http.ask("accepted"), LOW_RATE, SECONDS, ASKERS);
    const acknowledged = await openLoad(http.ask("acknowledged"), LOW_RATE, SECONDS, ASKERS);
    const bare = await loaded(raw.ask);
    const byHttp = await loaded(http.ask("acknowledged"));
    const byTopic = await loaded(topic.ask);
    const memory = await memoryParts(service.pid, url, member);
    return {
      "raw round trips/s": bare.perSecond,
      "CPU of all a raw round trip, µs": bare.rest,
      "HTTP, rate ÷ raw": byHttp.perSecond / bare.perSecond,
      "topic, rate ÷ raw": byTopic.perSecond / bare.perSecond,
      "HTTP, service CPU, µs": byHttp.service,
      "topic, service CPU, µs": byTopic.service,
      "HTTP, service CPU ÷ raw": byHttp.service / bare.rest,
      "topic, service CPU ÷ raw": byTopic.service / bare.rest,
      "HTTP, database CPU, µs": byHttp.database,
      "topic, database CPU, µs": byTopic.database,
      "202 p50 ÷ raw": accepted.p50 / lowRaw.p50,
      "200 p50 ÷ raw": acknowledged.p50 / lowRaw.p50,
      "resident, MB": memory.resident,
      "young, MB": memory.youngHeap,
      "old, MB": memory.oldHeap,
      "other, MB": memory.other,
    };
  };
}
