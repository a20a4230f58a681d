/** The model's tables: sites are saved whole, and read whole into records for the snapshot. */
import { type ChannelRecord, type Profile, RelayError, type SiteDescription, type SiteRecord } from "@bold-relay/core";
import type { QueryResult } from "pg";
import { keepVersion } from "./description-versions.ts";
import type { Db } from "./pool.ts";
import { describedSite, SITE_JSON, type SiteBundles } from "./site-rows.ts";
import { storableJson } from "./storable.ts";

/** Every channel in use, in schedule order. */
export async function findChannels(db: Db): Promise<ChannelRecord[]> {
  return recordsOf(await findProfiles(db), await db.query(channelsWhere("true")));
}

/** Those of some sites. */
export async function findChannelsOf(db: Db, sites: readonly string[]): Promise<ChannelRecord[]> {
  return recordsOf(await findProfiles(db), await db.query(channelsWhere("s.slug = any($1)"), [sites]));
}

/**
 * Those of other sites that may have a topic which begins with one of these levels. A device whose topics begin with its site can share
 * none with another site, unless that site uses the first's identifier as a level: nearly all are like that, so few come.
 */
export async function findChannelsBeside(db: Db, site: string, levels: readonly string[]): Promise<ChannelRecord[]> {
  const profiles = await findProfiles(db);
  const bound = [...profiles.values()]
    .filter(({ profile }) => beginsWithSite(profile))
    .map(({ profile }) => profile.slug);
  const where = `s.slug <> $1 and
    (s.slug = any($2) or p.slug <> all($3) or d.topics is not null or c.wiring ? 'topics')`;
  return recordsOf(profiles, await db.query(channelsWhere(where), [site, levels, bound]));
}

function beginsWithSite({ topics }: Profile): boolean {
  return Object.values(topics).every((pattern) => pattern === null || pattern.startsWith("{site}/"));
}

function channelsWhere(condition: string): string {
  return `
    select c.id, c.number, c.slug, c.name, c.kind, c.delivery, c.wiring, p.slug as profile,
      s.slug as site, s.name as site_name, r.slug as room, r.name as room_name,
      d.id as device_id, d.slug as device, d.name as device_name, d.topics as device_topics
    from channel c
      join device d on d.id = c.device_id join room r on r.id = d.room_id
      join site s on s.id = d.site_id join profile p on p.id = d.profile_id
    where c.removed_at is null and ${condition}
    order by s.slug, c.number, c.id`;
}

function recordsOf(profiles: ReadonlyMap<string, { profile: Profile }>, { rows }: QueryResult): ChannelRecord[] {
  // One object for each profile, site, room and device, not one for each of their channels: there may be many.
  const kept = new Map<string, object>();
  const shared = <Part extends object>(key: string, part: Part): Part => {
    const known = kept.get(key) ?? part;
    kept.set(key, known);
    return known as Part;
  };
  return rows.flatMap((row) => {
    const profile = profiles.get(row.profile)?.profile;
    if (!profile) return [];
    const { id, number, slug, name, kind, delivery, wiring } = row;
    const site = shared(`site ${row.site}`, { slug: row.site, name: row.site_name });
    const room = shared(`room ${row.site} ${row.room}`, { slug: row.room, name: row.room_name });
    const device = shared(`device ${row.device_id}`, {
      id: row.device_id,
      slug: row.device,
      name: row.device_name,
      ...(row.device_topics === null ? {} : { topics: row.device_topics }),
    });
    return { id, number, slug, name, kind, delivery, wiring, site, room, device, profile };
  });
}

/** Every site with what belongs to it beside its channels. */
export async function findSites(db: Db): Promise<SiteRecord[]> {
  return siteRecordsOf(
    await db.query("select slug, name, bundles, shard from site where removed_at is null order by slug"),
  );
}

function siteRecordsOf({ rows }: QueryResult): SiteRecord[] {
  return rows.map(({ bundles: { rooms: _, ...bundles }, ...site }) => ({ ...site, ...bundles }));
}

/** Every profile, by slug. */
export async function findProfiles(db: Db): Promise<Map<string, { profile: Profile; version: number }>> {
  const { rows } = await db.query<{ profile: Profile; version: number }>(
    "select body as profile, version from profile where removed_at is null order by slug",
  );
  return new Map(rows.map((row) => [row.profile.slug, row]));
}

/**
 * Adds a profile, or replaces the one of the same slug.
 *
 * @param db inside a transaction
 * @param by who saves it, for its versions
 * @param version that it was made from, 0 for one that is not there so far; null: whatever it is
 * @returns the version that it is now
 * @throws RelayError changed-meanwhile
 */
export async function saveProfile(
  db: Db,
  profile: Profile,
  by: string,
  version: number | null = null,
): Promise<number> {
  await requireProfileVersion(db, profile.slug, version);
  await keepVersion(db, "profile", profile.slug, null);
  const { rows } = await db.query<{ version: number }>(
    `insert into profile (slug, name, body) values ($1, $2, $3)
     on conflict (slug) do update set name = excluded.name, body = excluded.body, version = profile.version + 1, removed_at = null
     returning version`,
    [profile.slug, profile.name, profile],
  );
  await keepVersion(db, "profile", profile.slug, by);
  return rows[0]?.version ?? 1;
}

/** Locks the profile until the transaction ends. @throws RelayError changed-meanwhile */
export async function requireProfileVersion(db: Db, slug: string, version: number | null): Promise<void> {
  const { rows } = await db.query("select version, removed_at from profile where slug = $1 for update", [slug]);
  const current: number = rows[0]?.removed_at === null ? rows[0].version : 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The profile ${slug}`, version: current });
}

/** Adds those of the profiles that are not there; what a team made of one stays, and so does that it was deleted. */
export async function addProfiles(db: Db, profiles: readonly Profile[]): Promise<void> {
  await db.query(
    `insert into profile (slug, name, body) select p->>'slug', p->>'name', p from json_array_elements($1) p
     on conflict (slug) do nothing`,
    [storableJson(profiles)],
  );
}

export interface SiteVersion {
  readonly site: SiteDescription;
  readonly version: number;
}

/** A site as it was described, and how often that changed; null when there is none of this slug. */
export async function findSite(db: Db, slug: string): Promise<SiteVersion | null> {
  const { rows } = await db.query(
    `select s.version, s.bundles, ${SITE_JSON} as site from site s where s.slug = $1 and s.removed_at is null`,
    [slug],
  );
  const [found] = rows;
  return found ? { site: describedSite(found), version: found.version } : null;
}

const SAVE_SITE = `
with described as (
  select * from json_to_recordset($2) as d(
    room text, room_name text, device text, device_name text, device_topics json, profile text, channel text, name text, kind text,
    number int, delivery jsonb, wiring jsonb)
), rooms as (
  insert into room (site_id, slug, name) select distinct on (room) $1::int, room, room_name from described
  on conflict (site_id, slug) do update set name = excluded.name returning id, slug
), devices as (
  insert into device (site_id, room_id, profile_id, slug, name, topics)
  select distinct on (device) $1::int, rooms.id, profile.id, device, device_name, device_topics
  from described join rooms on rooms.slug = described.room join profile on profile.slug = described.profile
  on conflict (site_id, slug) do update
  set room_id = excluded.room_id, profile_id = excluded.profile_id, name = excluded.name, topics = excluded.topics
  returning id, slug
)
insert into channel (device_id, slug, name, kind, number, delivery, wiring, removed_at)
select devices.id, channel, described.name, kind, number, delivery, wiring, null
from described join devices on devices.slug = described.device
on conflict (device_id, slug) do update
set name = excluded.name, kind = excluded.kind, number = excluded.number, delivery = excluded.delivery,
  wiring = excluded.wiring, removed_at = null
where (channel.name, channel.kind, channel.number, channel.delivery, channel.wiring, channel.removed_at)
  is distinct from (excluded.name, excluded.kind, excluded.number, excluded.delivery, excluded.wiring, null)`;

/** Before the rest: what is not described any more. */
const REMOVE = `
update channel set removed_at = now() from device
where device.id = channel.device_id and device.site_id = $1 and removed_at is null
  and (device.slug, channel.slug) not in (select device, channel from json_to_recordset($2) as d(device text, channel text))`;

/** A site as it goes to the database: what is big about it is text already. */
export interface PreparedSite extends Pick<SiteDescription, "slug" | "name"> {
  readonly bundles: SiteBundles;
  /** JSON of the channels, one row each. */
  readonly channels: string;
  /** A device for each profile that is named, for who must be told which one is missing. */
  readonly profiles: readonly { readonly slug: string; readonly device: string }[];
}

export function preparedSite(site: SiteDescription): PreparedSite {
  const { slug, name, rooms, groups = [], scenes = [], interlocks = [] } = site;
  const own = site.timeZone === undefined ? {} : { timeZone: site.timeZone };
  const profiles = new Map(site.rooms.flatMap(({ devices }) => devices.map((one) => [one.profile, one.slug] as const)));
  return {
    slug,
    name,
    bundles: { ...own, rooms: rooms.map((room) => ({ slug: room.slug, name: room.name })), groups, scenes, interlocks },
    channels: storableJson(channelRows(site)),
    profiles: [...profiles].map(([profile, device]) => ({ slug: profile, device })),
  };
}

/** See `savePrepared`. */
export function saveSite(db: Db, site: SiteDescription, by: string, version: number | null = null): Promise<number> {
  return savePrepared(db, preparedSite(site), by, version);
}

/**
 * Adds a site, or makes the one of the same slug as described. Channels are known by device and slug, so
 * they keep their history; those that are gone are marked as removed.
 *
 * @param db inside a transaction
 * @param by who saves it, for its versions; null: it is on its way to be deleted, and is no version to come back to
 * @param version that the description was made from, 0 for a site that is not there so far; null: whatever it is
 * @returns the version that it is now
 * @throws RelayError changed-meanwhile
 * @throws Error when a device names a profile that does not exist
 */
export async function savePrepared(
  db: Db,
  site: PreparedSite,
  by: string | null,
  version: number | null,
): Promise<number> {
  const { rows: known } = await db.query("select version, removed_at from site where slug = $1 for update", [
    site.slug,
  ]);
  const current: number = known[0]?.removed_at === null ? known[0].version : 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The site ${site.slug}`, version: current });
  await keepVersion(db, "site", site.slug, null);
  const { rows } = await db.query(
    `insert into site (slug, name, bundles, shard)
     select $1, $2, $3, (select l.shard from lease l left join site s on s.shard = l.shard and s.removed_at is null
       group by l.shard order by count(s.id), l.shard limit 1)
     on conflict (slug) do update set name = excluded.name, bundles = excluded.bundles, version = site.version + 1, removed_at = null
     returning id, version`,
    [site.slug, site.name, site.bundles],
  );
  const siteId: number = rows[0].id;
  await requireProfiles(db, site);
  await db.query(REMOVE, [siteId, site.channels]);
  await db.query(SAVE_SITE, [siteId, site.channels]);
  if (by !== null) await keepVersion(db, "site", site.slug, by);
  return rows[0].version;
}

function channelRows(site: SiteDescription): object[] {
  const all = site.rooms.flatMap((room) =>
    room.devices.flatMap((device) => device.channels.map((channel) => ({ room, device, channel }))),
  );
  return all.map(({ room, device, channel: { slug, name, kind, delivery = {}, ...wiring } }, place) => ({
    room: room.slug,
    room_name: room.name,
    device: device.slug,
    device_name: device.name,
    device_topics: device.topics ?? null,
    profile: device.profile,
    channel: slug,
    name,
    kind,
    number: place + 1,
    delivery,
    wiring,
  }));
}

async function requireProfiles(db: Db, { slug, profiles }: PreparedSite): Promise<void> {
  const { rows } = await db.query<{ slug: string }>("select slug from profile where removed_at is null");
  const known = new Set(rows.map((row) => row.slug));
  const missing = profiles.find((one) => !known.has(one.slug));
  if (!missing) return;
  throw new Error(
    `Device ${slug}/${missing.device} names the profile “${missing.slug}”, which does not exist. Load it first.`,
  );
}

/** In a transaction the site stays until its end: whoever deletes it waits. @throws RelayError bad-request when there is none */
export async function requireKnownSite(db: Db, slug: string): Promise<void> {
  const { rowCount } = await db.query("select from site where slug = $1 and removed_at is null for share", [slug]);
  if (rowCount === 0) throw new RelayError("bad-request", { why: `There is no site “${slug}”` });
}
