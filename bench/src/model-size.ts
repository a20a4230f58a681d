/** `npm run bench:model -- --devices 2000`: a big site, taken on and changed while the service runs, and what it costs. */
import { parseArgs } from "node:util";
import Table from "cli-table3";
import { openServers, SECRET, type Stops, setUpMember, setUpSite, startMeasured, stopping } from "./bench-site.ts";
import { residentMb } from "./process-cost.ts";

const { values } = parseArgs({
  options: { devices: { type: "string", default: "2000" }, channels: { type: "string", default: "5" } },
});
const DEVICES = Number(values.devices);
const CHANNELS = Number(values.channels);

const REST_SECONDS = 100;

const stops: Stops = [];
await stopping(stops, measure);

async function measure(): Promise<void> {
  const { folder, databaseUrl, brokerUrl } = await openServers("model", stops);
  await setUpSite(databaseUrl, folder, 16);
  const key = await setUpMember(databaseUrl);
  const { url, service } = await startMeasured(folder, databaseUrl, brokerUrl, SECRET);
  stops.push(() => service.stop());
  const before = residentMb(service.pid);

  const call = async (method: string, where: string, body?: object): Promise<number> => {
    const startedAt = performance.now();
    const response = await fetch(`${url}/api/v1${where}`, {
      method,
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json", "if-match": "*" },
      ...(body ? { body: JSON.stringify(body) } : {}),
    });
    await response.text();
    if (!response.ok) throw new Error(`${method} ${where} was answered ${response.status}`);
    return performance.now() - startedAt;
  };
  const site = bigSite();
  const rows: [string, number][] = [
    ["look at it first (check), ms", await call("POST", "/sites/big/check", site)],
    ["take it on (load), ms", await call("PUT", "/sites/big/description", site)],
    ["change one name of it, ms", await call("PUT", "/sites/big/description", { ...site, name: "Bigger" })],
    ["the board as a whole, ms", await call("GET", "/board")],
    ["every device, ms", await call("GET", "/devices")],
    [
      `ask, with ${DEVICES * CHANNELS} channels, ms`,
      await call("POST", "/requests", { target: "big/device-7/relay-1", action: "on" }),
    ],
    ["resident before, MB", before],
    ["resident after, MB", residentMb(service.pid)],
    ["resident at rest, MB", await atRest(service.pid)],
  ];
  const table = new Table({ head: [`${DEVICES} devices, ${DEVICES * CHANNELS} channels`, ""] });
  table.push(...rows.map(([name, value]) => [name, Math.round(value)]));
  process.stdout.write(`${table.toString()}\n`);
}

/** Once the thread that checked it has ended, and the memory of it was given back. The least of what is seen in that time, MB. */
async function atRest(pid: number): Promise<number> {
  let least = Number.POSITIVE_INFINITY;
  for (let second = 0; second < REST_SECONDS; second += 1) {
    await new Promise((resolve) => setTimeout(resolve, 1_000));
    least = Math.min(least, residentMb(pid));
  }
  return least;
}

function bigSite() {
  const channels = Array.from({ length: CHANNELS }, (_, place) => ({
    slug: `relay-${place}`,
    name: `Relay ${place}`,
    kind: "relay",
  }));
  const devices = Array.from({ length: DEVICES }, (_, index) => ({
    slug: `device-${index}`,
    name: `board ${index}`,
    profile: "new-device",
    channels: channels.map((one) => ({ ...one, name: `${one.name} of ${index}` })),
  }));
  const rooms = Array.from({ length: 20 }, (_, room) => ({
    slug: `room-${room}`,
    name: `Room ${room}`,
    devices: devices.filter((_device, index) => index % 20 === room),
  }));
  return { slug: "big", name: "Big", rooms };
}
