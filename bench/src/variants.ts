/**
 * `npm run bench:variants -- "here" "here --max-semi-space-size=32" "node=PATH" "server=PATH"`: the service beside itself with other flags, on
 * another Node.js, or from another checkout. All take turns in each round, for the machine is now quick, now slow.
 */
import { fork } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";
import { parseArgs } from "node:util";
import Table from "cli-table3";
import {
  INLET,
  openServers,
  SECRET,
  type Stops,
  setUpMember,
  setUpSite,
  startMeasured,
  stopping,
  type Variant,
} from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { type Ask, closedLoad, openLoad } from "./load.ts";
import { memoryParts } from "./memory.ts";
import { cpuMicroseconds, treeCpuMicroseconds } from "./process-cost.ts";
import { openRawPath } from "./raw-path.ts";
import { rangeText } from "./report.ts";
import { openTopicPath } from "./topic-path.ts";

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: {
    /** s of each full load */
    seconds: { type: "string", default: "5" },
    rounds: { type: "string", default: "3" },
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
  for (const name of names) benches.push({ name, bench: await openBench(), figures: [] as Measured[] });
  for (let round = 1; round <= Number(values.rounds); round += 1) {
    for (const { name, bench, figures } of benches) {
      process.stderr.write(`Round ${round}: ${name}\n`);
      figures.push(await bench(variantOf(name)));
    }
  }
  const rows = Object.keys(benches[0]?.figures[0] ?? {});
  const table = new Table({ head: ["", ...names], style: { head: [], border: [] } });
  for (const row of rows) {
    const cells = benches.map(({ figures }) => rangeText(figures.map((one) => Number((one[row] ?? 0).toPrecision(3)))));
    table.push([row, ...cells]);
  }
  process.stdout.write(`${table.toString()}\n`);
}

/** @example variantOf("node=/opt/node24 --max-semi-space-size=16") // → { node: "/opt/node24", flags: ["--max-semi-space-size=16"] } */
function variantOf(text: string): Variant {
  const words = text.split(" ").filter((word) => word !== "");
  const given = (name: string) => words.find((word) => word.startsWith(`${name}=`))?.slice(name.length + 1);
  const flags = words.filter((word) => word.startsWith("--"));
  const [node, server] = [given("node"), given("server")];
  return { flags, ...(node === undefined ? {} : { node }), ...(server === undefined ? {} : { server }) };
}

/** Servers of its own for each variant, so that none finds what another left. */
async function openBench(): Promise<(variant: Variant) => Promise<Measured>> {
  const { folder, databaseUrl, brokerUrl, postgres, broker } = await openServers("variants", stops);
  const key = await setUpSite(databaseUrl, folder, ASKERS);
  const member = await setUpMember(databaseUrl);

  return async (variant) => {
    const echo = fork(fileURLToPath(new URL("./echo.js", import.meta.url)), [brokerUrl, "bench", SECRET]);
    await once(echo, "message");
    const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET, variant);
    const raw = await openRawPath(brokerUrl, "bench", SECRET);
    const http = openFullPath({ url, path: `/in/${INLET}`, key, connections: ASKERS });
    const topic = await openTopicPath({ brokerUrl, username: "bench", password: SECRET, url, key: member });
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
    try {
      await closedLoad(raw.ask, ASKERS, 1);
      await closedLoad(http.ask("acknowledged"), ASKERS, 2);
      await closedLoad(topic.ask, ASKERS, 2);
      const lowRaw = await openLoad(raw.ask, LOW_RATE, 2, ASKERS);
      const accepted = await openLoad(http.ask("accepted"), LOW_RATE, 3, ASKERS);
      const acknowledged = await openLoad(http.ask("acknowledged"), LOW_RATE, 3, ASKERS);
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
        "HTTP, database CPU ÷ raw": byHttp.database / bare.rest,
        "topic, database CPU ÷ raw": byTopic.database / bare.rest,
        "202 p50 ÷ raw": accepted.p50 / lowRaw.p50,
        "200 p50 ÷ raw": acknowledged.p50 / lowRaw.p50,
        "resident, MB": memory.resident,
        "young, MB": memory.youngHeap,
        "old, MB": memory.oldHeap,
        "other, MB": memory.other,
      };
    } finally {
      http.stop();
      await topic.stop();
      await raw.stop();
      echo.kill();
      await service.stop();
    }
  };
}
