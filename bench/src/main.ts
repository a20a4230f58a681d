/** `npm run bench`: the raw path and the full path in one run, on real servers, as figures and ratios. */
import { writeFileSync } from "node:fs";
import { parseArgs } from "node:util";
import { acceptCost } from "./accept-cost.ts";
import { INLET, openServers, SECRET, type Stops, setUpMember, setUpSite, startMeasured } from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { type Ask, closedLoad, openLoad } from "./load.ts";
import { memoryParts } from "./memory.ts";
import { cpuMicroseconds, treeCpuMicroseconds } from "./process-cost.ts";
import { openRawPath } from "./raw-path.ts";
import { type Figures, printReport, ratiosOf } from "./report.ts";
import { startEcho } from "./start-echo.ts";
import { openTopicPath } from "./topic-path.ts";

const { values } = parseArgs({
  options: {
    /** s of each full load */
    seconds: { type: "string", default: "8" },
    /** Where the figures go as JSON, beside standard output. */
    json: { type: "string" },
  },
});
const SECONDS = Number(values.seconds);
const ASKERS = 256;
const LOW_RATE = 50;
const WARM_UP_SECONDS = 3;

const stops: Stops = [];
try {
  const figures = await measure();
  const ratios = ratiosOf(figures);
  printReport(figures, ratios);
  const json = JSON.stringify({ figures, ratios });
  process.stdout.write(`${json}\n`);
  if (values.json) writeFileSync(values.json, `${json}\n`);
} finally {
  for (const stop of stops.reverse()) await stop();
}

async function measure(): Promise<Figures> {
  const { folder, databaseUrl, brokerUrl, postgres, broker } = await openServers("bench", stops);
  const echo = await startEcho(brokerUrl, SECRET, stops);

  const key = await setUpSite(databaseUrl, folder, ASKERS);
  say("One row alone");
  const accept = await acceptCost(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  /** The same load on a service that keeps nothing. */
  const unkept = async () => {
    await service.stop();
    const other = await startMeasured(folder, databaseUrl, brokerUrl, SECRET, { journal: false });
    stops.push(() => other.service.stop());
    const path = openFullPath({ url: other.url, path: `/in/${INLET}`, key, connections: ASKERS });
    stops.push(() => path.stop());
    await closedLoad(path.ask("acknowledged"), ASKERS, WARM_UP_SECONDS);
    return closedLoad(path.ask("acknowledged"), ASKERS, SECONDS);
  };

  const raw = await openRawPath(brokerUrl, "bench", SECRET);
  stops.push(() => raw.stop());
  const full = openFullPath({ url, path: `/in/${INLET}`, key, connections: ASKERS });
  stops.push(() => full.stop());

  const member = await setUpMember(databaseUrl);
  const access = { brokerUrl, username: "bench", password: SECRET };
  const byTopic = await openTopicPath({ ...access, url, key: member });
  stops.push(() => byTopic.stop());

  say("Warming up");
  await closedLoad(raw.ask, ASKERS, 1);
  await closedLoad(full.ask("acknowledged"), ASKERS, WARM_UP_SECONDS);
  await closedLoad(full.ask("confirmed"), ASKERS, WARM_UP_SECONDS);
  await closedLoad(byTopic.ask, ASKERS, WARM_UP_SECONDS);
  const memory = () => memoryParts(service.pid, url, member);
  const afterWarmUp = await memory();
  say("Low load");
  const lowSeconds = Math.max(4, SECONDS / 2);
  const lowRaw = await openLoad(raw.ask, LOW_RATE, lowSeconds, ASKERS);
  const accepted = await openLoad(full.ask("accepted"), LOW_RATE, lowSeconds, ASKERS);
  const acknowledged = await openLoad(full.ask("acknowledged"), LOW_RATE, lowSeconds, ASKERS);
  const confirmed = await openLoad(full.ask("confirmed"), LOW_RATE, lowSeconds, ASKERS);
  say("Full load");
  const cpu = () => ({
    service: cpuMicroseconds(service.pid),
    database: treeCpuMicroseconds(postgres.child.pid),
    broker: cpuMicroseconds(broker.child.pid),
    device: cpuMicroseconds(echo.pid ?? 0),
    askers: cpuMicroseconds(process.pid),
  });
  const measured = async (ask: Ask, seconds = SECONDS) => {
    const cpuBefore = cpu();
    const load = await closedLoad(ask, ASKERS, seconds);
    const cpuAfter = cpu();
    const perRequest = (part: keyof typeof cpuBefore) => (cpuAfter[part] - cpuBefore[part]) / load.count;
    const [service, database, broker, device, askers] = (
      ["service", "database", "broker", "device", "askers"] as const
    ).map(perRequest) as [number, number, number, number, number];
    return { load, cpuMicroseconds: { service, database, broker, device, askers } };
  };
  const before = await measured(raw.ask, SECONDS / 2);
  const byHttp = await measured(full.ask("acknowledged"));
  const byMqtt = await measured(byTopic.ask);
  const reported = await measured(full.ask("confirmed"));
  const loaded = await memory();
  const after = await measured(raw.ask, SECONDS / 2);
  const withoutJournal = await unkept();
  return {
    raw: { before, after, low: lowRaw },
    accept,
    http: byHttp,
    topic: byMqtt,
    confirmed: reported,
    withoutJournal,
    low: { accepted, acknowledged, confirmed },
    memory: { afterWarmUp, loaded },
  };
}

function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
