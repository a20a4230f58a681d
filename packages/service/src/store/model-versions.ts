/** In which version sites and profiles are: whether what is known of them still counts. */
import type { Db } from "./pool.ts";

/** Another one with every change of a site or a profile, and with every migration: that may change what their rows mean. */
export async function findModelStamp(db: Db): Promise<string> {
  const of = (table: string, what: string) =>
    `(select coalesce(md5(string_agg(slug || ':' || ${what}, ',' order by slug)), '') from ${table} where removed_at is null)`;
  const { rows } = await db.query<{ stamp: string }>(
    `select ${of("site", "version || ':' || shard")} || ${of("profile", "version")} || (select max(name) from migration) as stamp`,
  );
  return rows[0]?.stamp ?? "";
}

/** By slug in which version each is. */
export interface ModelVersions {
  readonly sites: ReadonlyMap<string, { readonly version: string; readonly shard: number }>;
  readonly profiles: ReadonlyMap<string, string>;
}

export async function findModelVersions(db: Db): Promise<ModelVersions> {
  const { rows } = await db.query<{ shard: number | null; slug: string; version: string }>(
    `select shard, slug, version::text from site where removed_at is null
     union all select null, slug, version::text from profile where removed_at is null`,
  );
  const sites: [string, { version: string; shard: number }][] = [];
  const profiles: [string, string][] = [];
  for (const { shard, slug, version } of rows)
    if (shard === null) profiles.push([slug, version]);
    else sites.push([slug, { version, shard }]);
  return { sites: new Map(sites), profiles: new Map(profiles) };
}
