/** What a change of state costs the service, by how many listen to the live feed. */
import { get } from "node:http";
import { createOwnerClient, setUp } from "@bold-relay/rig";
import { connectAsync } from "mqtt";
import { SECRET } from "../bench-site.ts";
import { withoutDelay } from "../connection.ts";
import { cpuMicroseconds } from "../process-cost.ts";
import type { GrowthBench } from "./bench.ts";
import type { Curve, Point } from "./curve.ts";

/** The service has room for 200 (`limits.ts`), and for 20 of each member. */
const SIZES = [1, 10, 50, 200];
const OF_EACH = 20;
const CHANGES = 400;
const PER_SECOND = 100;

export async function growByListeners({
  url,
  key,
  databaseUrl,
  brokerUrl,
  service,
  say,
}: GrowthBench): Promise<Curve[]> {
  const { owner } = await setUp(databaseUrl, { owner: "Head" });
  const client = createOwnerClient({ url, key, name: "Head", password: owner?.password ?? "" });
  const members = Array.from({ length: Math.ceil((SIZES.at(-1) ?? 0) / OF_EACH) }, (_, n) => `Listener ${n}`);
  for (const name of members) await client.addMember({ name, role: "reader" });
  const { keys } = await setUp(databaseUrl, { keys: members.map((member) => ({ member, name: "feed" })) });
  const device = withoutDelay(await connectAsync(brokerUrl, { username: "bench", password: SECRET }));
  const points: Point[] = [];
  try {
    for (const size of SIZES) {
      say(`${size} listeners`);
      const feeds = await Promise.all(
        Array.from({ length: size }, (_, n) => listen(`${url}/api/v1/live`, keys[Math.floor(n / OF_EACH)]?.key ?? "")),
      );
      await changes(device, PER_SECOND);
      const before = cpuMicroseconds(service.pid);
      await changes(device, CHANGES);
      points.push({ size, cost: (cpuMicroseconds(service.pid) - before) / CHANGES });
      for (const feed of feeds) feed.destroy();
    }
  } finally {
    await device.endAsync();
  }
  return [{ of: "listeners", cost: "service CPU a change of state, µs", points }];
}

function listen(address: string, key: string) {
  return new Promise<ReturnType<typeof get>>((resolve, reject) => {
    const call = get(address, { headers: { authorization: `Bearer ${key}` }, agent: false }, (answer) => {
      if (answer.statusCode !== 200) return reject(new Error(`The live feed answered ${answer.statusCode}`));
      answer.resume();
      resolve(call);
    });
    call.on("error", reject);
  });
}

type Device = Awaited<ReturnType<typeof connectAsync>>;

/** Every change is one: on and off in turn. */
async function changes(device: Device, count: number): Promise<void> {
  const startedAt = performance.now();
  for (let turn = 0; turn < count; turn += 1) {
    const due = startedAt + (turn * 1_000) / PER_SECOND;
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
    const payload = `{"to":"${turn % 2 === 0 ? "on" : "off"}","by":"hand"}`;
    await device.publishAsync("bench/board-0/relay-0/is", payload, { qos: 1 });
  }
}
