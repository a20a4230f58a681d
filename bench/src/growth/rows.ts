/** What lists of the request log cost over HTTP, by how many requests are kept. */
import {
  addSite,
  openServers,
  SECRET,
  type Stops,
  setUpMember,
  setUpSite,
  startMeasured,
  stopping,
} from "../bench-site.ts";
import { fillJournal } from "../journal-fill.ts";
import { type Curve, median, type Point } from "./curve.ts";

const CHANNELS = 256;
const CALLS = 40;
const LISTS = {
  "newest 50, ms": "/requests",
  "50 of one channel, ms": "/requests?channel=bench/board-3/relay-7",
  "50 of a site of 512 channels, ms": "/requests?site=bench",
  "50 not delivered, ms": "/requests?result=not-delivered",
} as const;

/** @param sizes in rows; each has a database of its own */
export async function growByRows(sizes: readonly number[], say: (line: string) => void): Promise<Curve[]> {
  const points = new Map<string, Point[]>(Object.keys(LISTS).map((cost) => [cost, []]));
  for (const size of sizes) {
    say(`${size} requests in the log`);
    const stops: Stops = [];
    await stopping(stops, async () => {
      const { folder, databaseUrl, brokerUrl } = await openServers("growth-rows", stops, { fsync: false });
      await setUpSite(databaseUrl, folder, CHANNELS);
      await addSite(databaseUrl, folder, "quiet", 16);
      await fillJournal(databaseUrl, { rows: size, channels: CHANNELS, say: () => {} });
      const key = await setUpMember(databaseUrl);
      const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
      stops.push(() => service.stop());
      for (const [cost, address] of Object.entries(LISTS)) {
        const times: number[] = [];
        for (let call = 0; call < CALLS; call += 1) times.push(await timed(`${url}/api/v1${address}`, key));
        points.get(cost)?.push({ size, cost: median(times) });
      }
    });
  }
  return [...points].map(([cost, of]) => ({ of: "requests in the log", cost, points: of }));
}

async function timed(address: string, key: string): Promise<number> {
  const startedAt = performance.now();
  const answer = await fetch(address, { headers: { authorization: `Bearer ${key}` } });
  await answer.arrayBuffer();
  if (!answer.ok) throw new Error(`${address} was answered ${answer.status}`);
  return performance.now() - startedAt;
}
