/**
 * `npm run bench:small`: the service, its database and its broker together in a control group of 512 MB, under full load, with the
 * settings of `docs/how-to/install.md` for a small machine. Needs root on Linux.
 */
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
} from "./bench-site.ts";
import { openFullPath } from "./full-path.ts";
import { closedLoad } from "./load.ts";
import { MemoryLimit } from "./memory-limit.ts";
import { openRawPath } from "./raw-path.ts";
import { startEcho } from "./start-echo.ts";
import { openTopicPath } from "./topic-path.ts";

const { values } = parseArgs({
  options: { megabytes: { type: "string", default: "512" }, seconds: { type: "string", default: "20" } },
});
const MEGABYTES = Number(values.megabytes);
const SECONDS = Number(values.seconds);
const ASKERS = 256;
/** Of PostgreSQL. */
const SETTINGS = { shared_buffers: "64MB", max_connections: "40", maintenance_work_mem: "16MB" };

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const limit = new MemoryLimit("bold-relay-bench", MEGABYTES);
  stops.push(() => limit.remove());
  limit.enter();
  const servers = await openServers("small", stops, { settings: SETTINGS });
  const { folder, databaseUrl, brokerUrl } = servers;
  const key = await setUpSite(databaseUrl, folder, ASKERS);
  const member = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  limit.leave();

  await startEcho(brokerUrl, SECRET, stops);
  const raw = await openRawPath(brokerUrl, "bench", SECRET);
  stops.push(() => raw.stop());
  const http = openFullPath({ url, path: `/in/${INLET}`, key, connections: ASKERS });
  stops.push(() => http.stop());
  const topic = await openTopicPath({ brokerUrl, username: "bench", password: SECRET, url, key: member });
  stops.push(() => topic.stop());

  await closedLoad(raw.ask, ASKERS, 1);
  const { perSecond: rawRate } = await closedLoad(raw.ask, ASKERS, 3);
  await closedLoad(http.ask("acknowledged"), ASKERS, 3);
  const byHttp = await closedLoad(http.ask("acknowledged"), ASKERS, SECONDS);
  const byTopic = await closedLoad(topic.ask, ASKERS, SECONDS);
  const { mostMb, processesMb, killed } = limit.use();
  const table = new Table({ head: [`within ${MEGABYTES} MB`, ""], style: { head: [], border: [] } });
  table.push(
    ["by HTTP, requests/s ÷ raw round trips/s", (byHttp.perSecond / rawRate).toFixed(3)],
    ["by topic, requests/s ÷ raw round trips/s", (byTopic.perSecond / rawRate).toFixed(3)],
    ["requests, each delivered", byHttp.count + byTopic.count],
    ["service, database and broker at the end, MB", processesMb.toFixed(0)],
    ["most at once, with caches of files, MB", mostMb.toFixed(0)],
    ["processes ended for want of memory", killed],
  );
  process.stdout.write(`${table.toString()}\n`);
}
