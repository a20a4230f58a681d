/** What finding a route costs, by how many there are. */
import { buildRouter, matchRoute, NO_ARRIVAL } from "@bold-relay/core";
import type { Curve } from "./curve.ts";

const SIZES = [10, 100, 1_000, 10_000, 100_000];
const ROUNDS = 100_000;

export function growByRoutes(): Curve[] {
  const points = SIZES.map((size) => {
    const router = buildRouter(
      Array.from({ length: size }, (_, n) => ({
        when: { topic: `site-${n}/{room}/want` },
        do: { ignore: true } as const,
      })),
    );
    const arrivals = Array.from({ length: 1_000 }, (_, n) => ({
      ...NO_ARRIVAL,
      topic: `site-${(n * 7_919) % size}/hall/want`,
    }));
    const round = (times: number) => {
      for (let turn = 0; turn < times; turn += 1) {
        const arrival = arrivals[turn % arrivals.length];
        if (arrival && !matchRoute(router, arrival, () => true)) throw new Error("a route was not found");
      }
    };
    round(ROUNDS / 4);
    const startedAt = performance.now();
    round(ROUNDS);
    return { size, cost: ((performance.now() - startedAt) * 1_000) / ROUNDS };
  });
  return [{ of: "routes", cost: "match, µs", points }];
}
