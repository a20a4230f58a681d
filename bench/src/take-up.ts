/** `npm run bench:take-up`: how long nobody answers while another instance takes the lead, by how many channels it takes up. */
import { mkdirSync } from "node:fs";
import path from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import { parseArgs } from "node:util";
import { createClient } from "@bold-relay/api";
import Table from "cli-table3";
import {
  addSite,
  channelAddress,
  openServers,
  SECRET,
  type Stops,
  setUpMember,
  setUpSite,
  startMeasured,
  stopping,
} from "./bench-site.ts";
import { exponentOf, median } from "./growth/curve.ts";

const { values } = parseArgs({
  options: {
    /** Channels, separated by commas. */
    sizes: { type: "string", default: "100,1000,10000,100000" },
    rounds: { type: "string", default: "3" },
  },
});
const SIZES = values.sizes.split(",").map(Number);
const ROUNDS = Number(values.rounds);
/** A site is loaded as a whole, and holds so many channels at most. */
const MOST_A_SITE = 10_000;
const STEADY_MS = 8_000;
/** The default of BOLD_RELAY_LEASE_MS. */
const LEASE_MS = 3_000;

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("take-up", stops);
  await setUpSite(databaseUrl, folder, 32);
  const key = await setUpMember(databaseUrl);
  const points: { size: number; cost: number }[] = [];
  const table = new Table({ head: ["channels", "handed over, ms", "killed, ms", "of that the lease, ms"] });
  let there = 64;
  let sites = 0;
  for (const size of SIZES) {
    for (; there < size; sites += 1) {
      const more = Math.min(MOST_A_SITE, size - there);
      // Half of them report, half of them only answer.
      await addSite(databaseUrl, folder, `more-${sites}`, Math.ceil(more / 2));
      there += more;
    }
    say(`${there} channels`);
    const handed: number[] = [];
    const killed: number[] = [];
    for (let round = 0; round < ROUNDS; round += 1) {
      const one = await start(folder, databaseUrl, brokerUrl, "one");
      const two = await start(folder, databaseUrl, brokerUrl, "two");
      const client = createClient({ baseUrl: two.url, key });
      // As it is when nobody has just been started: the instance that stands by has read the model ahead.
      await pause(STEADY_MS);
      const { instances } = await client.cluster();
      const next = instances.find(({ address }) => address === two.url)?.name ?? "";
      handed.push(await longestGap(two.url, key, () => client.handOverLead(next)));
      killed.push(
        await longestGap(one.url, key, async () => {
          two.service.kill("SIGKILL");
          await two.service.ended;
        }),
      );
      await one.service.stop();
      await two.service.stop();
    }
    points.push({ size: there, cost: median(handed) });
    table.push([there, Math.round(median(handed)), Math.round(median(killed)), LEASE_MS]);
  }
  process.stdout.write(`${table.toString()}\nExponent of handing over: ${exponentOf(points).toFixed(2)}\n`);
}

async function start(folder: string, databaseUrl: string, brokerUrl: string, name: string) {
  const own = path.join(folder, name);
  mkdirSync(own, { recursive: true });
  return startMeasured(own, databaseUrl, brokerUrl, SECRET);
}

/** The longest time between two answers to a request that is asked again and again, from a moment before until it is well again, ms. */
async function longestGap(url: string, key: string, happen: () => Promise<void>): Promise<number> {
  let longest = 0;
  let answeredAt = performance.now();
  let isOver = false;
  const asking = (async () => {
    while (!isOver) {
      const answer = await fetch(`${url}/api/v1/requests`, {
        method: "POST",
        headers: { authorization: `Bearer ${key}`, "content-type": "application/json" },
        body: JSON.stringify({ target: channelAddress("taker", 0), action: "on" }),
      }).catch(() => null);
      const isAnswered = answer?.ok === true;
      await answer?.text();
      if (isAnswered) {
        longest = Math.max(longest, performance.now() - answeredAt);
        answeredAt = performance.now();
      }
      await pause(2);
    }
  })();
  await pause(1_000);
  const from = performance.now();
  await happen();
  while (answeredAt < from || performance.now() - from < 6_000) await pause(50);
  isOver = true;
  await asking;
  return longest;
}

function say(line: string): void {
  process.stderr.write(`${new Date().toISOString().slice(11, 19)}  ${line}\n`);
}
