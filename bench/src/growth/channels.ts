/** What a request costs, and what the service keeps, by how many channels there are. */
import { residentMb } from "../process-cost.ts";
import type { GrowthBench } from "./bench.ts";
import { type Curve, median, type Point } from "./curve.ts";

const SIZES = [100, 1_000, 10_000, 100_000];
/** One description holds so many channels. */
const MOST_A_SITE = 10_000;
const CALLS = 60;

export async function growByChannels({ url, key, service, say }: GrowthBench): Promise<Curve[]> {
  const call = async (method: string, address: string, body: object | null): Promise<number> => {
    const startedAt = performance.now();
    const answer = await fetch(`${url}/api/v1${address}`, {
      method,
      headers: { authorization: `Bearer ${key}`, "content-type": "application/json", "if-match": "*" },
      ...(body && { body: JSON.stringify(body) }),
    });
    await answer.text();
    if (!answer.ok) throw new Error(`${method} ${address} was answered ${answer.status}`);
    return performance.now() - startedAt;
  };
  const [asked, named, loaded, resident]: [Point[], Point[], Point[], Point[]] = [[], [], [], []];
  let there = 0;
  for (const size of SIZES) {
    say(`${size} channels`);
    const loads: number[] = [];
    while (there < size) {
      const more = Math.min(size - there, MOST_A_SITE);
      const slug = `grown-${there}`;
      const ms = await call("PUT", `/sites/${slug}/description`, siteOf(slug, more)).catch((error: Error) => error);
      // Each is checked against all that is there, and a check may take 30 s.
      if (ms instanceof Error) break;
      loads.push(ms / more);
      there += more;
    }
    if (there < size) {
      say(`no more than ${there} channels could be loaded`);
      break;
    }
    const ask = (target: string) => call("POST", "/requests", { target, action: "on" });
    const times = async (target: (turn: number) => string) => {
      const all: number[] = [];
      for (let turn = 0; turn < CALLS; turn += 1) all.push(await ask(target(turn)));
      return median(all);
    };
    asked.push({ size, cost: await times((turn) => `grown-0/device-${turn % 20}/relay-1`) });
    named.push({ size, cost: await times((turn) => `relay 1 of ${turn % 20} of grown-0`) });
    loaded.push({ size, cost: median(loads) });
    resident.push({ size, cost: residentMb(service.pid) });
  }
  return [
    { of: "channels", cost: "request by address, ms", points: asked },
    { of: "channels", cost: "request by name, ms", points: named },
    { of: "channels", cost: "loading a description, ms a channel", points: loaded },
    { of: "channels", cost: "resident, MB", points: resident },
  ];
}

function siteOf(slug: string, channels: number) {
  const relays = ["relay-0", "relay-1", "relay-2", "relay-3", "relay-4"];
  const devices = Array.from({ length: Math.ceil(channels / relays.length) }, (_, device) => ({
    slug: `device-${device}`,
    name: `board ${device}`,
    profile: "answering-board",
    channels: relays.map((relay, place) => ({
      slug: relay,
      name: `Relay ${place} of ${device} of ${slug}`,
      kind: "relay",
    })),
  }));
  return { slug, name: slug, rooms: [{ slug: "hall", name: "Hall", devices }] };
}
