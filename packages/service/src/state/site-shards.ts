/** To which shard each site belongs. */
import type { ChannelId, Snapshot } from "@bold-relay/core";

/** Made once for each model. */
const bySnapshot = new WeakMap<Snapshot, ReadonlyMap<string, number>>();

/** @param site the slug; of one that is not known (any more) the first shard takes care */
export function shardOfSite(snapshot: Snapshot, site: string): number {
  return shardsOf(snapshot).get(site) ?? 0;
}

/** Whether every site belongs to the first shard. */
export function isUndivided(snapshot: Snapshot): boolean {
  return shardsOf(snapshot).size === 0;
}

/** Those of the first shard are left out. */
function shardsOf(snapshot: Snapshot): ReadonlyMap<string, number> {
  const known = bySnapshot.get(snapshot);
  if (known) return known;
  const shards = new Map(
    snapshot.sites.flatMap(({ slug, shard = 0 }): [string, number][] => (shard === 0 ? [] : [[slug, shard]])),
  );
  bySnapshot.set(snapshot, shards);
  return shards;
}

/** Of a channel that is in no site (any more) the first shard takes care. */
export function shardOfChannel(snapshot: Snapshot, channel: ChannelId): number {
  const entry = snapshot.byId.get(channel);
  return entry ? shardOfSite(snapshot, entry.site.slug) : 0;
}

/** The slugs of a shard's sites. */
export function sitesOfShard(snapshot: Snapshot, shard: number): Set<string> {
  return new Set(snapshot.sites.flatMap(({ slug }) => (shardOfSite(snapshot, slug) === shard ? [slug] : [])));
}
