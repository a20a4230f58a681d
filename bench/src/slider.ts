/**
 * `npm run bench:slider`: a slider dragged through 60 positions a second for 5 s. What counts: it ends on the last position, and
 * the device hears no more often than its least gap allows.
 */
import { createClient } from "@bold-relay/api";
import Table from "cli-table3";
import { connectAsync } from "mqtt";
import { openServers, SECRET, type Stops, setUpMember, setUpSite, startMeasured, stopping } from "./bench-site.ts";
import { withoutDelay } from "./connection.ts";
import { startEcho } from "./start-echo.ts";

const PER_SECOND = 60;
const SECONDS = 5;
const GAPS_MS = [0, 100, 250];

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("slider", stops);
  await startEcho(brokerUrl, SECRET, stops);
  await setUpSite(databaseUrl, folder, 16);
  const key = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  const client = createClient({ baseUrl: url, key });
  const channels = GAPS_MS.map((minGapMs) => {
    return { slug: `gap-${minGapMs}`, name: `Gap of ${minGapMs} ms`, kind: "dimmer" as const, delivery: { minGapMs } };
  });
  const { site, version } = await client.site("bench");
  const dimmers = { slug: "dimmers", name: "dimmers", profile: "reporting-board", channels };
  const [room, ...rooms] = site.rooms;
  if (!room) throw new Error("The site has no room.");
  await client.saveSite({ ...site, rooms: [{ ...room, devices: [...room.devices, dimmers] }, ...rooms] }, version);

  const access = { username: "bench", password: SECRET, protocolVersion: 5, clientId: "slider-witness" } as const;
  const witness = withoutDelay(await connectAsync(brokerUrl, access));
  stops.push(() => witness.endAsync());
  const heard = new Map<string, string[]>();
  witness.on("message", (topic, payload) => heard.set(topic, [...(heard.get(topic) ?? []), payload.toString()]));
  await witness.subscribeAsync("bench/dimmers/+/do", { qos: 1 });

  const table = new Table({ head: ["least gap, ms", "positions", "publishes", "allowed", "ended on the last one"] });
  for (const minGapMs of GAPS_MS) {
    const target = `bench/dimmers/gap-${minGapMs}`;
    const last = await drag((value) => client.ask({ target, action: "level", value }));
    const ends = await client.ask({ target, action: "level", value: last }, { waitS: 20 });
    const sent = heard.get(`${target}/do`) ?? [];
    const allowed = (minGapMs === 0 ? PER_SECOND * SECONDS : Math.ceil((SECONDS * 1_000) / minGapMs)) + 1;
    const stands = ends.outcome === "delivered" && sent.at(-1)?.includes(`"to":${last}}`);
    table.push([minGapMs, PER_SECOND * SECONDS, sent.length, allowed, stands ? "yes" : "NO"]);
  }
  process.stdout.write(`${table.toString()}\n`);
}

/** @returns the last position */
async function drag(set: (value: number) => Promise<unknown>): Promise<number> {
  const startedAt = performance.now();
  const asked: Promise<unknown>[] = [];
  let value = 0;
  for (let turn = 0; turn < PER_SECOND * SECONDS; turn += 1) {
    const due = startedAt + (turn * 1_000) / PER_SECOND;
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
    value = Math.round(50 + 49 * Math.sin(turn / 17));
    asked.push(set(value));
  }
  await Promise.all(asked);
  return value;
}
