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

/** By slug in which version each is; of a site with its shard. */
export interface ModelVersions {
  readonly sites: ReadonlyMap<string, string>;
  readonly profiles: ReadonlyMap<string, string>;
}

export async function findModelVersions(db: Db): Promise<ModelVersions> {
  const { rows } = await db.query<{ isSite: boolean; slug: string; version: string }>(
    `select true as "isSite", slug, version || ':' || shard as version from site where removed_at is null
     union all select false, slug, version::text from profile where removed_at is null`,
  );
  const of = (isSite: boolean) =>
    rows.filter((row) => row.isSite === isSite).map((row) => [row.slug, row.version] as const);
  return { sites: new Map(of(true)), profiles: new Map(of(false)) };
}
