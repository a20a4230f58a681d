/** Several instances that share the shards, and callers who ask some requests of the leader of their site, and some of another instance. */
import { mkdirSync } from "node:fs";
import path from "node:path";
import { setTimeout as pause } from "node:timers/promises";
import type { Client } from "@bold-relay/api";
import { type Child, eventually } from "@bold-relay/rig";
import { channelAddress, INLET, SECRET, startMeasured } from "./bench-site.ts";
import { HttpAsker } from "./http-asker.ts";

export interface Running {
  readonly url: string;
  readonly service: Child;
}

export interface AskingOptions {
  readonly client: Client;
  readonly sites: readonly string[];
  /** Those that are asked. */
  readonly running: readonly Running[];
  /** Of the inlet. */
  readonly key: string;
  /** How many ask. */
  readonly count: number;
  /** Whether every second request arrives at an instance that does not lead its site. */
  readonly isHalfWrong: boolean;
}

export async function startInstances(
  count: number,
  folder: string,
  databaseUrl: string,
  brokerUrl: string,
): Promise<Running[]> {
  const running: Running[] = [];
  for (let index = 0; index < count; index += 1) {
    const own = path.join(folder, `instance-${index}`);
    mkdirSync(own, { recursive: true });
    running.push(await startMeasured(own, databaseUrl, brokerUrl, SECRET));
  }
  return running;
}

/** Each site has a shard of its own, or all have the one; the instances have their shares. */
export async function spread(
  client: Client,
  sites: readonly string[],
  shards: number,
  instances: number,
): Promise<void> {
  const { shards: before } = await client.cluster();
  if (before.length < shards) await client.changeShardCount(shards);
  const isShared = async () => {
    const leaders = (await client.cluster()).shards.map(({ leader }) => leader);
    const counts = [...new Set(leaders)].map((name) => leaders.filter((one) => one === name).length);
    const isFair = counts.length === Math.min(instances, shards) && Math.max(...counts) - Math.min(...counts) <= 1;
    return !leaders.includes(null) && (isFair || before.length > shards);
  };
  if (!(await eventually(isShared, 60_000))) throw new Error("The shards are not shared.");
  for (const [index, site] of sites.entries()) {
    const move = () =>
      client.moveSite(site, index % shards).then(
        () => true,
        () => false,
      );
    if (!(await eventually(move, 30_000))) throw new Error(`${site} does not move.`);
  }
  if (before.length > shards) await client.changeShardCount(shards);
  await pause(1_000);
}

/** Each asks at one site: by turns at the instance that leads it, and at another one. */
export async function asking({ client, sites, running, key, count, isHalfWrong }: AskingOptions) {
  const { shards, instances } = await client.cluster();
  const askers = Array.from({ length: count }, (_, worker) => {
    const site = sites[worker % sites.length] ?? "";
    const { leader } = shards.find((shard) => shard.sites.includes(site)) ?? { leader: null };
    const led = instances.find(({ name }) => name === leader)?.address;
    const right = running.find(({ url }) => url === led)?.url ?? running[0]?.url ?? "";
    const others = !isHalfWrong ? [] : running.map(({ url }) => url).filter((url) => url !== right);
    const wrong = others[worker % Math.max(1, others.length)] ?? right;
    const target = channelAddress("taker", Math.floor(worker / sites.length), site);
    const of = (url: string) => new HttpAsker(new URL(`/in/${INLET}`, url), [`authorization: Bearer ${key}`]);
    return { target, ways: [of(right), of(wrong)] as const };
  });
  return {
    async ask(worker: number, turn: number) {
      const { target, ways } = askers[worker] ?? {};
      const body = `{"target":"${target}","action":"${turn % 4 < 2 ? "on" : "off"}"}`;
      const { status, body: text } = (await ways?.[turn % 2]?.call(body, "prefer: return=minimal, wait=10\r\n")) ?? {
        status: 0,
        body: "no such asker",
      };
      if (status !== 200 || !text.includes('"outcome":"delivered"'))
        throw new Error(`answered ${status}: ${text.slice(0, 300)}`);
    },
    stop() {
      for (const { ways } of askers) for (const way of ways) way.close();
    },
  };
}
