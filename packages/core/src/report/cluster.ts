/** What somebody should look at about the instances that run beside each other. Pure. */
import { formatDuration } from "./duration.ts";

/** Who was not seen for longer is taken for dead, ms. */
export const INSTANCE_ALIVE_MS = 10_000;
/** Clocks may differ by so much, ms: keys, sessions and links end by the clock of the instance that looks. */
export const CLOCK_TOLERANCE_MS = 2_000;

export interface ClusterInstance {
  readonly name: string;
  readonly version: string;
  readonly build: string | null;
  /** How long ago it was seen, ms. */
  readonly seenMs: number;
  /** How far its clock is ahead of the database's, ms. */
  readonly aheadMs: number;
  /** Whether it reaches the broker; null: it does not look. */
  readonly brokerReached: boolean | null;
}

export function isAlive({ seenMs }: Pick<ClusterInstance, "seenMs">): boolean {
  return seenMs < INSTANCE_ALIVE_MS;
}

/**
 * A sentence for each trouble; none: all is well.
 *
 * @param shards each with the name of the instance that leads it; null: none does
 * @example clusterFindings([{ name: "b", seenMs: 60_000, … }], [{ shard: 0, leader: "a" }]) // → ["b was last seen 1 min ago. …"]
 */
export function clusterFindings(
  instances: readonly ClusterInstance[],
  shards: readonly { readonly shard: number; readonly leader: string | null }[],
): string[] {
  const led = shards.filter(({ leader }) => leader !== null);
  const alive = instances.filter(isAlive);
  const versions = new Set(alive.map(({ version, build }) => `${version} ${build ?? ""}`.trim()));
  return [
    ...(led.length === 0 ? ["No instance leads. Requests wait until one does."] : []),
    ...(led.length === 0 ? [] : shards)
      .filter(({ leader }) => leader === null)
      .map(({ shard }) => `No instance leads shard ${shard}. Requests for its sites wait until one does.`),
    ...instances
      .filter((one) => !isAlive(one))
      .map(
        ({ name, seenMs }) =>
          `${name} was last seen ${formatDuration(seenMs)} ago. If it was not removed on purpose, look at its machine.`,
      ),
    ...(versions.size > 1
      ? [`Different versions run: ${[...versions].sort().join(", ")}. Upgrade all instances to the same.`]
      : []),
    ...alive
      .filter(({ aheadMs }) => Math.abs(aheadMs) > CLOCK_TOLERANCE_MS)
      .map(({ name, aheadMs }) => {
        const how = aheadMs > 0 ? "ahead of" : "behind";
        return `The clock of ${name} is ${formatDuration(Math.abs(aheadMs))} ${how} the database's. Set it by NTP: keys and sessions end too ${aheadMs > 0 ? "early" : "late"} there.`;
      }),
    ...alive
      .filter(({ brokerReached }) => brokerReached === false)
      .map(({ name }) => `${name} does not reach the broker. Look at its network, or at the broker.`),
    ...(alive.length === 1 && instances.length > 1 ? ["One instance is left. Another failure stops the service."] : []),
  ];
}
