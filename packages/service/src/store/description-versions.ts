/** The versions of descriptions. A version is copied where it is made, in the same transaction, by the database itself. */
import type { InletDescription, NotificationDescription, Profile, SiteDescription } from "@bold-relay/core";
import type { Db } from "./pool.ts";
import { describedSite, SITE_JSON } from "./site-rows.ts";

export const DESCRIPTION_KINDS = ["site", "profile", "inlet", "notification"] as const;
export type DescriptionKind = (typeof DESCRIPTION_KINDS)[number];
export type Description = SiteDescription | Profile | InletDescription | NotificationDescription;

export interface VersionRow {
  readonly version: number;
  /** ms since 1970; null: from before there were versions. */
  readonly savedAt: number | null;
  readonly savedBy: string | null;
  /** Whether it is in effect now. */
  readonly current: boolean;
  /** Of an inlet or a notification: the site that it belonged to in this version; null: every site. */
  readonly site: string | null;
}

/** How many of each description are kept. */
const KEPT = 50;

interface Kind {
  /** The description that is in effect, as columns `slug`, `version`, `body`. */
  readonly current: string;
  readonly read: (body: never) => Description;
}

const KINDS: Readonly<Record<DescriptionKind, Kind>> = {
  site: {
    current: `select s.slug, s.version, json_build_object('site', ${SITE_JSON}, 'bundles', s.bundles) as body
      from site s where s.slug = $1 and s.removed_at is null`,
    read: describedSite,
  },
  profile: {
    current: "select slug, version, body::json as body from profile where slug = $1 and removed_at is null",
    read: (body: Profile) => body,
  },
  inlet: {
    current: `select i.slug, i.version, json_build_object('slug', i.slug, 'name', i.name, 'kind', i.kind, 'site', s.slug, 'body', i.body) as body
      from inlet i left join site s on s.id = i.site_id where i.slug = $1`,
    read: ({ body, ...head }: { body: object }) => ({ ...head, ...body }) as InletDescription,
  },
  notification: {
    current: "select slug, version, body::json as body from notification where slug = $1",
    read: (body: NotificationDescription) => body,
  },
};

/**
 * Copies what is stored now, unless it is copied already.
 *
 * @param by who made it; null: nobody knows, it is from before there were versions
 */
export async function keepVersion(db: Db, kind: DescriptionKind, slug: string, by: string | null): Promise<void> {
  await db.query(
    `insert into description_version (kind, slug, version, saved_at, saved_by, body)
     select $2, slug, version, case when $3::text is null then null else now() end, $3, body from (${KINDS[kind].current}) as now_stored
     on conflict do nothing`,
    [slug, kind, by],
  );
  await db.query(
    `delete from description_version where kind = $1 and slug = $2 and version <= (
       select max(version) - ${KEPT} from description_version where kind = $1 and slug = $2)`,
    [kind, slug],
  );
}

const NO_SITE = "null::text";
const SITE_OF: Readonly<Record<DescriptionKind, string>> = {
  site: NO_SITE,
  profile: NO_SITE,
  inlet: "body ->> 'site'",
  notification: "body ->> 'site'",
};

/** The newest first. Empty when nobody ever described it. */
export async function findVersions(db: Db, kind: DescriptionKind, slug: string): Promise<VersionRow[]> {
  const { rows } = await db.query<VersionRow>(
    `with now_stored as (select version, ${SITE_OF[kind]} as site from (${KINDS[kind].current}) as described)
     select version, extract(epoch from saved_at)::float8 * 1000 as "savedAt", saved_by as "savedBy",
       (version = (select version from now_stored)) is true as current, ${SITE_OF[kind]} as site
     from description_version where kind = $2 and slug = $1
     union all
     select version, null, null, true, site from now_stored
     where version not in (select version from description_version where kind = $2 and slug = $1)
     order by version desc`,
    [slug, kind],
  );
  return rows;
}

/** null when it is not kept. */
export async function findVersion(
  db: Db,
  kind: DescriptionKind,
  slug: string,
  version: number,
): Promise<Description | null> {
  const { rows } = await db.query<{ body: never }>(
    `select body from description_version where kind = $2 and slug = $1 and version = $3
     union all select body from (${KINDS[kind].current}) as now_stored where version = $3
     limit 1`,
    [slug, kind, version],
  );
  return rows[0] ? KINDS[kind].read(rows[0].body) : null;
}

/** The next version of something that may have been there before. */
export const NEXT_VERSION = (kind: DescriptionKind, slug: string): string =>
  `coalesce((select max(version) from description_version where kind = '${kind}' and slug = ${slug}), 0) + 1`;
