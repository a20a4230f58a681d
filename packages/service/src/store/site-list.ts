/** Sites with their size, for lists. */
import type { SiteListView } from "@bold-relay/api";
import type { Db } from "./pool.ts";

/** @param sites those that may be seen; null: all */
export async function findSiteList(db: Db, sites: readonly string[] | null): Promise<SiteListView[]> {
  const { rows } = await db.query<SiteListView>(
    `select s.slug, s.name, s.bundles->>'timeZone' as "timeZone", s.version,
       count(distinct c.device_id)::int as devices, count(c.id)::int as channels
     from site s
       left join device d on d.site_id = s.id
       left join channel c on c.device_id = d.id and c.removed_at is null
     where s.removed_at is null and ($1::text[] is null or s.slug = any($1))
     group by s.id order by s.slug`,
    [sites],
  );
  return rows;
}
