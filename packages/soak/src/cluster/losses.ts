/** What the cluster loses, one thing after the other: each breaks something, waits, and mends it again. */
import { setTimeout as pause } from "node:timers/promises";
import type { ClusterNode, ClusterStack, Part } from "@bold-relay/rig";
import type { ShardMap } from "./shard-map.ts";

export interface Loss {
  readonly name: string;
  readonly happen: (stack: ClusterStack, shards: ShardMap) => Promise<void>;
}

/** How long a part stays away, ms: longer than anything waits for it. */
const AWAY_MS = 12_000;
/** How long a database stays away: longer than Patroni's ttl. */
const DATABASE_AWAY_MS = 35_000;

export const losses: readonly Loss[] = [
  {
    name: "the instance that leads is killed",
    happen: async (stack, shards) => lose(stack.node(await shards.first()), "service"),
  },
  {
    name: "the instance that leads stands still for 8 s",
    async happen(stack, shards) {
      const node = stack.node(await shards.first());
      node.signal("service", "SIGSTOP");
      await pause(8_000);
      node.signal("service", "SIGCONT");
    },
  },
  {
    name: "another instance is killed",
    happen: async (stack, shards) => lose(another(stack, [await shards.first()]), "service"),
  },
  {
    name: "every instance is restarted in turn",
    async happen(stack, shards) {
      for (const node of stack.nodes) {
        await node.stop("service");
        node.start("service");
        await stack.untilReady();
        await shards.untilShared(stack.nodes.length);
      }
    },
  },
  {
    name: "PostgreSQL of the primary is killed",
    async happen(stack) {
      await stack.node(await primaryOf(stack)).kill("database");
      await pause(AWAY_MS);
    },
  },
  {
    name: "the primary is killed with its Patroni",
    happen: async (stack) => loseDatabase(stack, await primaryOf(stack)),
  },
  {
    name: "the primary becomes a read-only standby",
    async happen(stack) {
      const from = await primaryOf(stack);
      await stack.switchOver(from, (await stack.syncStandby()) ?? another(stack, [from]).name);
      await pause(AWAY_MS);
    },
  },
  {
    name: "the synchronous standby is killed with its Patroni",
    happen: async (stack) => loseDatabase(stack, (await stack.syncStandby()) ?? ""),
  },
  {
    name: "the broker in use is killed",
    happen: async (stack) => lose(stack.node((await stack.brokerInUse()) ?? ""), "broker"),
  },
  {
    name: "the broker not in use is killed",
    async happen(stack) {
      const inUse = await stack.brokerInUse();
      const node = stack.nodes.find(({ name, hasBroker }) => hasBroker && name !== inUse);
      if (node) await lose(node, "broker");
    },
  },
  {
    name: "etcd of the primary's node is killed",
    happen: async (stack) => lose(stack.node(await primaryOf(stack)), "etcd"),
  },
  {
    name: "HAProxy of the shared address is killed",
    happen: async (stack) => lose(stack.node(stack.addressHolder ?? ""), "haproxy"),
  },
  {
    name: "keepalived of the shared address is stopped",
    async happen(stack) {
      const node = stack.node(stack.addressHolder ?? "");
      await node.stop("keepalived");
      await pause(AWAY_MS);
      node.start("keepalived");
    },
  },
  ...["north", "east", "south"].map((name) => ({
    name: `${name} loses its power`,
    async happen(stack: ClusterStack) {
      const node = stack.node(name);
      await node.powerOff();
      await pause(DATABASE_AWAY_MS);
      node.powerOn();
    },
  })),
  {
    name: "the leader's node is cut off from the network",
    async happen(stack, shards) {
      const name = await shards.first();
      stack.network.unplug(name);
      await pause(DATABASE_AWAY_MS);
      stack.network.plug(name);
    },
  },
  {
    name: "the primary's node is cut off from the network",
    async happen(stack) {
      const name = await primaryOf(stack);
      stack.network.unplug(name);
      await pause(DATABASE_AWAY_MS);
      stack.network.plug(name);
    },
  },
  {
    name: "the leader cannot reach the primary",
    async happen(stack, shards) {
      const name = await shards.first();
      if (name === (await primaryOf(stack))) await stack.switchOver(name, (await stack.syncStandby()) ?? "");
      const { address } = stack.node(await primaryOf(stack));
      stack.network.block(name, address);
      await pause(DATABASE_AWAY_MS);
      stack.network.unblock(name, address);
    },
  },
  {
    name: "the leader cannot reach the broker",
    async happen(stack, shards) {
      // Whoever has the address reaches the broker without a network.
      while ((await shards.first()) === stack.addressHolder) {
        const node = stack.node(stack.addressHolder ?? "");
        await node.stop("service");
        await pause(1_000);
        node.start("service");
        await stack.untilReady();
      }
      const name = await shards.first();
      stack.network.block(name, stack.sharedAddress);
      await pause(DATABASE_AWAY_MS);
      stack.network.unblock(name, stack.sharedAddress);
    },
  },
  {
    name: "the network of the leader's node is slow",
    async happen(stack, shards) {
      const name = await shards.first();
      stack.network.slow(name, "2mbit", 300);
      await pause(DATABASE_AWAY_MS);
      stack.network.unslow(name);
    },
  },
];

/** Only where the cluster began with the version before. */
export const upgrade: Loss = {
  name: "every instance is upgraded in turn",
  async happen(stack) {
    for (const node of stack.nodes) {
      await node.stop("service");
      node.upgrade();
      node.start("service");
      await stack.untilReady();
      // Old and new beside each other, each of them leading for a while.
      await pause(4_000);
    }
  },
};

/** Kills a part, and starts it again once nobody waits for it any more. */
async function lose(node: ClusterNode, part: Part): Promise<void> {
  await node.kill(part);
  await pause(AWAY_MS);
  node.start(part);
}

async function loseDatabase(stack: ClusterStack, name: string): Promise<void> {
  const node = stack.node(name);
  node.signal("database", "SIGKILL");
  await node.kill("database");
  await pause(DATABASE_AWAY_MS);
  node.start("database");
}

function another(stack: ClusterStack, not: readonly string[]) {
  const found = stack.nodes.find(({ name }) => !not.includes(name));
  if (!found) throw new Error("There is no other node.");
  return found;
}

async function primaryOf(stack: ClusterStack): Promise<string> {
  return known(() => stack.primary(), "which database is the primary");
}

async function known(ask: () => Promise<string | null>, what: string): Promise<string> {
  for (let left = 100; left > 0; left -= 1) {
    const answer = await ask();
    if (answer !== null) return answer;
    await pause(200);
  }
  throw new Error(`Nobody says ${what}.`);
}
