/** `npm run bench:routes`: what finding a route costs, by how many there are; and what reading a phrase costs, by how long it is. */
import { type Arrival, buildRouter, matchRoute, NO_ARRIVAL, type Route } from "@bold-relay/core";
import Table from "cli-table3";

const SIZES = [10, 1_000, 100_000];
const ROUNDS = 200_000;

type Kind = { readonly name: string; readonly route: (n: number) => Route; readonly arrival: (n: number) => Arrival };

const deed = { ignore: true } as const;
const KINDS: readonly Kind[] = [
  {
    name: "topic, with a hole",
    route: (n) => ({ when: { topic: `site-${n}/{room}/want` }, do: deed }),
    arrival: (n) => ({ ...NO_ARRIVAL, topic: `site-${n}/hall/want` }),
  },
  {
    name: "field",
    route: (n) => ({ when: { fields: { "/type": `event-${n}`, "/lamp": "{lamp}" } }, do: deed }),
    arrival: (n) => ({ ...NO_ARRIVAL, fields: { type: `event-${n}`, lamp: "porch" } }),
  },
  {
    name: "words",
    route: (n) => ({ when: { words: `scene number ${n}` }, do: deed }),
    arrival: (n) => ({ ...NO_ARRIVAL, text: `Scene  Number ${n}!` }),
  },
];

const table = new Table({ head: ["µs a match", ...SIZES.map((size) => `${size} routes`), "100 000 ÷ 10"] });
for (const { name, route, arrival } of KINDS) {
  const costs = SIZES.map((size) => {
    const router = buildRouter(Array.from({ length: size }, (_, n) => route(n)));
    // The same arrivals at every size but for where their route is: the last, the first, somewhere between.
    const arrivals = Array.from({ length: 1_000 }, (_, n) => arrival((n * 7_919) % size));
    const round = (times: number) => {
      for (let turn = 0; turn < times; turn += 1) {
        const come = arrivals[turn % arrivals.length];
        if (come && !matchRoute(router, come, () => true)) throw new Error("a route was not found");
      }
    };
    round(ROUNDS / 4);
    const began = performance.now();
    round(ROUNDS);
    return ((performance.now() - began) * 1_000) / ROUNDS;
  });
  const [least = 1] = costs;
  table.push([name, ...costs.map((cost) => cost.toFixed(2)), ((costs.at(-1) ?? 0) / least).toFixed(2)]);
}
process.stdout.write(`${table.toString()}\n`);
