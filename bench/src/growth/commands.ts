/** What a command costs the service: by how many come for one lane at once, and by how many one request makes. */
import { HttpAsker } from "../http-asker.ts";
import { cpuMicroseconds } from "../process-cost.ts";
import type { GrowthBench } from "./bench.ts";
import type { Curve, Point } from "./curve.ts";

const AT_ONCE = [1, 4, 16, 64, 256];
const IN_A_REQUEST = [1, 4, 16, 64, 256];
/** About so many commands for each size. */
const COMMANDS = 2_048;

export async function growByCommands({ url, inletKey, inlet, key, service, say }: GrowthBench): Promise<Curve[]> {
  const target = new URL(`/in/${inlet}`, url);
  const asker = () => new HttpAsker(target, [`authorization: Bearer ${inletKey}`]);
  const wait = "prefer: return=minimal, wait=10\r\n";
  const cpuOf = async (work: () => Promise<void>) => {
    const before = cpuMicroseconds(service.pid);
    await work();
    return cpuMicroseconds(service.pid) - before;
  };
  const lane: Point[] = [];
  for (const size of AT_ONCE) {
    say(`${size} commands at once for one lane`);
    const rounds = COMMANDS / size;
    // Anew for each size: the service closes a connection that is idle for 30 s.
    const askers = Array.from({ length: size }, asker);
    const round = async (turn: number) => {
      const body = (n: number) =>
        `{"target":"bench/taker-0/relay-0","action":"${(n + turn) % 2 === 0 ? "on" : "off"}"}`;
      await Promise.all(askers.map((one, n) => one.call(body(n), wait)));
    };
    await round(0);
    const cpu = await cpuOf(async () => {
      for (let turn = 0; turn < rounds; turn += 1) await round(turn);
    });
    lane.push({ size, cost: cpu / (rounds * size) });
    for (const one of askers) one.close();
  }
  const group: Point[] = [];
  for (const size of IN_A_REQUEST) {
    say(`${size} commands in one request`);
    const rounds = Math.ceil(COMMANDS / size);
    const channels = Array.from({ length: size }, (_, n) => `taker-${Math.floor(n / 16)}/relay-${n % 16}`);
    const name = `group of ${size}`;
    await put(`${url}/api/v1/sites/bench/groups/of-${size}`, key, { name, channels });
    const one = asker();
    const ask = (turn: number) => one.call(`{"target":"${name}","action":"${turn % 2 ? "on" : "off"}"}`, wait);
    await ask(0);
    const cpu = await cpuOf(async () => {
      for (let turn = 0; turn < rounds; turn += 1) await ask(turn);
    });
    group.push({ size, cost: cpu / (rounds * size) });
    one.close();
  }
  return [
    { of: "commands at once for one lane", cost: "service CPU a request, µs", points: lane },
    { of: "commands of one request", cost: "service CPU a command, µs", points: group },
  ];
}

async function put(address: string, key: string, body: object): Promise<void> {
  const headers = { authorization: `Bearer ${key}`, "content-type": "application/json", "if-match": "*" };
  const answer = await fetch(address, { method: "PUT", headers, body: JSON.stringify(body) });
  if (!answer.ok) throw new Error(`PUT ${address} was answered ${answer.status}: ${await answer.text()}`);
}
