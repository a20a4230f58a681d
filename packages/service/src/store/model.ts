/** The model's tables: sites are saved whole, and read whole into records for the snapshot. */
import type { ChannelId, ChannelRecord, Profile, SiteDescription, SiteRecord } from "@bold-relay/core";
import { type Db, inTransaction, type Pool } from "./pool.ts";

/** Every channel in use, in schedule order. */
export async function findChannels(db: Db): Promise<ChannelRecord[]> {
  const { rows } = await db.query(`
    select c.id, c.number, c.slug, c.name, c.kind, c.delivery, c.wiring, p.body as profile,
      json_build_object('slug', s.slug, 'name', s.name) as site,
      json_build_object('slug', r.slug, 'name', r.name) as room,
      json_build_object('id', d.id, 'slug', d.slug, 'name', d.name) as device
    from channel c
      join device d on d.id = c.device_id join room r on r.id = d.room_id
      join site s on s.id = d.site_id join profile p on p.id = d.profile_id
    where c.removed_at is null
    order by s.slug, c.number, c.id`);
  return rows;
}

/** Every site with what belongs to it beside its channels. */
export async function findSites(db: Db): Promise<SiteRecord[]> {
  const { rows } = await db.query("select slug, name, bundles from site order by slug");
  return rows.map(({ bundles, ...site }) => ({ ...site, ...bundles }));
}

/** Adds a profile, or replaces the one of the same slug. */
export async function saveProfile(db: Db, profile: Profile): Promise<void> {
  await db.query(
    `insert into profile (slug, name, body) values ($1, $2, $3)
     on conflict (slug) do update set name = excluded.name, body = excluded.body`,
    [profile.slug, profile.name, profile],
  );
}

/**
 * Adds a site, or makes the one of the same slug as described. Channels are known by device and slug, so
 * they keep their history; those that are gone are marked as removed.
 *
 * @throws Error when a device names a profile that does not exist
 */
export async function saveSite(pool: Pool, site: SiteDescription): Promise<void> {
  await inTransaction(pool, async (db) => {
    const { groups = [], scenes = [], interlocks = [] } = site;
    const bundles = { groups, scenes, interlocks };
    const siteId = await upsert(db, "site", { slug: site.slug }, { name: site.name, bundles });
    await db.query(
      `update channel set removed_at = now() from device
       where device.id = channel.device_id and device.site_id = $1 and removed_at is null`,
      [siteId],
    );
    let number = 0;
    for (const room of site.rooms) {
      const roomId = await upsert(db, "room", { site_id: siteId, slug: room.slug }, { name: room.name });
      for (const device of room.devices) {
        const profileId = await profileIdOf(db, device.profile, `${site.slug}/${device.slug}`);
        const place = { room_id: roomId, profile_id: profileId, name: device.name };
        const deviceId = await upsert(db, "device", { site_id: siteId, slug: device.slug }, place);
        for (const channel of device.channels) {
          number += 1;
          const { slug, name, kind, delivery = {}, ...wiring } = channel;
          const record = { name, kind, number, delivery, wiring, removed_at: null };
          await upsert(db, "channel", { device_id: deviceId, slug }, record);
        }
      }
    }
  });
}

async function profileIdOf(db: Db, slug: string, device: string): Promise<number> {
  const { rows } = await db.query<{ id: number }>("select id from profile where slug = $1", [slug]);
  if (!rows[0]) throw new Error(`Device ${device} names the profile “${slug}”, which does not exist. Load it first.`);
  return rows[0].id;
}

/** Table and column names come from this file only, never from input. */
async function upsert(db: Db, table: string, key: object, record: object): Promise<number> {
  const columns = [...Object.keys(key), ...Object.keys(record)];
  const values = [...Object.values(key), ...Object.values(record)];
  const text = `insert into ${table} (${columns.join(", ")}) values (${columns.map((_, index) => `$${index + 1}`).join(", ")})
    on conflict (${Object.keys(key).join(", ")}) do update
    set ${Object.keys(record)
      .map((column) => `${column} = excluded.${column}`)
      .join(", ")}
    returning id`;
  const { rows } = await db.query<{ id: ChannelId }>(text, values);
  return rows[0]?.id ?? 0;
}
