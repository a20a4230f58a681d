/** Which instance leads which shard of the cluster, asked of the service as an operator would. */
import { setTimeout as pause } from "node:timers/promises";
import type { Client, ClusterView, ShardView } from "@bold-relay/api";
import { eventually } from "@bold-relay/rig";

export class ShardMap {
  private readonly client: Client;

  constructor(client: Client) {
    this.client = client;
  }

  /** Asked again while it changes hands. */
  async all(): Promise<readonly ShardView[]> {
    for (let left = 100; left > 0; left -= 1) {
      const found: Partial<ClusterView> | null = await this.client.cluster().catch(() => null);
      // The version before shards names none.
      if (found) return found.shards ?? [];
      await pause(200);
    }
    throw new Error("Nobody says which instance leads.");
  }

  /** The instance that leads the first shard. */
  async first(): Promise<string> {
    for (let left = 100; left > 0; left -= 1) {
      const [first] = await this.all();
      if (first?.leader) return first.leader;
      await pause(200);
    }
    throw new Error("No instance leads the first shard.");
  }

  /** Until each has a leader, and no instance leads two more than another one. @param instances how many there are */
  async untilShared(instances: number): Promise<void> {
    const isShared = async () => {
      const leaders = (await this.all()).map(({ leader }) => leader);
      const counts = [...new Set(leaders)].map((name) => leaders.filter((one) => one === name).length);
      if (leaders.length === 1) return leaders[0] !== null;
      return !leaders.includes(null) && counts.length === instances && Math.max(...counts) - Math.min(...counts) <= 1;
    };
    if (!(await eventually(isShared, 60_000))) throw new Error("The shards are not shared.");
  }

  /** So many shards, and the sites spread over them. @returns false: this version has no shards */
  async spread(count: number, sites: readonly (readonly string[])[]): Promise<boolean> {
    const isThere = await this.client.changeShardCount(count).then(
      () => true,
      (error: { problem?: { status: number } }) => {
        if (error.problem?.status === 404) return false;
        throw error;
      },
    );
    if (!isThere) return false;
    for (const [shard, slugs] of sites.entries())
      for (const slug of slugs) {
        const move = () =>
          this.client.moveSite(slug, shard).then(
            () => true,
            () => false,
          );
        if (!(await eventually(move, 30_000))) throw new Error(`${slug} does not move to shard ${shard}.`);
      }
    return true;
  }
}
