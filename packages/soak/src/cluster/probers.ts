/** One prober for each shard: how long nothing switched where the leader changed, and how long elsewhere. */
import type { ShardView } from "@bold-relay/api";
import { lampOf } from "./cluster-site.ts";
import { Prober, type ProberOptions } from "./prober.ts";

/** The longest time without a confirmed switch of one lamp, ms; null: there is no such shard. */
export interface Gaps {
  /** In shards that changed their leader. */
  readonly moved: number | null;
  /** In the others. */
  readonly others: number | null;
}

export class Probers {
  private readonly bySite: ReadonlyMap<string, Prober>;

  constructor(sites: readonly string[], options: Omit<ProberOptions, "target">) {
    this.bySite = new Map(sites.map((site) => [site, new Prober({ ...options, target: lampOf(site) })]));
  }

  start(): void {
    for (const prober of this.bySite.values()) prober.start();
  }

  async stop(): Promise<void> {
    await Promise.all([...this.bySite.values()].map((prober) => prober.stop()));
  }

  /** Resolves once each has switched its lamp again. */
  async untilSwitched(withinMs: number): Promise<void> {
    await Promise.all([...this.bySite.values()].map((prober) => prober.untilSwitched(withinMs)));
  }

  /** @param before who led what at `from`, a time of `performance.now()` */
  gapsSince(from: number, before: readonly ShardView[], after: readonly ShardView[]): Gaps {
    const [moved, others]: [number[], number[]] = [[], []];
    for (const [site, prober] of this.bySite)
      (ledSince(before, site) === ledSince(after, site) ? others : moved).push(prober.longestGapSince(from));
    return { moved: longest(moved), others: longest(others) };
  }
}

function longest(gaps: readonly number[]): number | null {
  return gaps.length === 0 ? null : Math.max(...gaps);
}

/** Which instance leads the shard of a site, and since when. */
function ledSince(shards: readonly ShardView[], site: string): string {
  const found = shards.find(({ sites }) => sites.includes(site));
  return `${found?.leader} ${found?.since}`;
}
