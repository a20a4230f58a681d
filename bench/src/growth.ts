/**
 * `npm run bench:growth`: how costs grow with channels, routes, listeners, requests in the log, and commands, each with the exponent of its
 * growth. `--millions 10` sets the largest log, `--svg FILE` draws the curves.
 */
import { writeFileSync } from "node:fs";
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
import { growByChannels } from "./growth/channels.ts";
import { chartOf, numberText } from "./growth/chart.ts";
import { growByCommands } from "./growth/commands.ts";
import { type Curve, exponentOf } from "./growth/curve.ts";
import { growByListeners } from "./growth/listeners.ts";
import { growByRoutes } from "./growth/routes.ts";
import { growByRows } from "./growth/rows.ts";
import { startEcho } from "./start-echo.ts";

const { values } = parseArgs({
  options: { millions: { type: "string", default: "1" }, svg: { type: "string" } },
});
const MOST_ROWS = Number(values.millions) * 1_000_000;
const ASKERS = 256;

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("growth", stops);
  await startEcho(brokerUrl, SECRET, stops);
  const inletKey = await setUpSite(databaseUrl, folder, ASKERS);
  const key = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  const bench = { url, databaseUrl, brokerUrl, service, key, inlet: INLET, inletKey, say };

  const curves: Curve[] = [
    ...growByRoutes(),
    ...(await growByCommands(bench)),
    ...(await growByListeners(bench)),
    ...(await growByChannels(bench)),
    ...(await growByRows(rowSizes(), say)),
  ];
  const table = new Table({ head: ["by", "cost", "sizes", "measured", "exponent"], style: { head: [], border: [] } });
  for (const { of, cost, points } of curves) {
    const sizes = points.map(({ size }) => size.toLocaleString("en")).join(", ");
    table.push([
      of,
      cost,
      sizes,
      points.map((point) => numberText(point.cost)).join(", "),
      exponentOf(points).toFixed(2),
    ]);
  }
  process.stdout.write(`${table.toString()}\n`);
  if (values.svg) writeFileSync(values.svg, chartOf(curves));
}

/** From ten thousand on, ten times as many each. */
function rowSizes(): number[] {
  const sizes: number[] = [];
  for (let size = 10_000; size <= MOST_ROWS; size *= 10) sizes.push(size);
  return sizes;
}

function say(line: string): void {
  process.stderr.write(`${line}\n`);
}
