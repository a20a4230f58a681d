/** Deleting a site or a profile. Its rows stay, for history names them: it is marked, and comes back as itself. */
import { RelayError } from "@bold-relay/core";
import { keepVersion } from "./description-versions.ts";
import { preparedSite, requireProfileVersion, savePrepared } from "./model.ts";
import type { Db } from "./pool.ts";

/**
 * Deletes a site with its rooms, devices and channels. Roles that members have there end.
 *
 * @param db inside a transaction
 * @param version that it was looked at; null: whatever it is
 * @throws RelayError not-found, changed-meanwhile, or depended-on while inlets or notifications belong to it
 */
export async function deleteSite(db: Db, slug: string, version: number | null): Promise<void> {
  const { rows } = await db.query<{ id: number; name: string }>(
    "select id, name from site where slug = $1 and removed_at is null for update",
    [slug],
  );
  const [site] = rows;
  if (!site) throw new RelayError("not-found", { what: `The site ${slug}` });
  await requireNoDependants(db, site.id, slug);
  await savePrepared(db, preparedSite({ slug, name: site.name, rooms: [] }), null, version);
  await db.query("update site set removed_at = now() where id = $1", [site.id]);
  await db.query("delete from membership where site_id = $1", [site.id]);
}

/** Most that are named in the answer. */
const MOST_NAMED = 5;

async function requireNoDependants(db: Db, siteId: number, slug: string): Promise<void> {
  const { rows } = await db.query<{ what: string }>(
    `select 'the inlet ' || slug as what from inlet where site_id = $1
     union all select 'the notification ' || slug from notification where body ->> 'site' = $2`,
    [siteId, slug],
  );
  requireNone(
    `The site ${slug}`,
    rows.map(({ what }) => what),
  );
}

/**
 * Deletes a profile that no device uses.
 *
 * @param db inside a transaction
 * @param users addresses of the devices that use it
 * @param version that it was looked at; null: whatever it is
 * @throws RelayError not-found, changed-meanwhile or depended-on
 */
export async function deleteProfile(
  db: Db,
  slug: string,
  users: readonly string[],
  version: number | null,
): Promise<void> {
  requireNone(
    `The profile ${slug}`,
    users.map((address) => `the device ${address}`),
  );
  await requireProfileVersion(db, slug, version);
  await keepVersion(db, "profile", slug, null);
  const { rowCount } = await db.query("update profile set removed_at = now() where slug = $1 and removed_at is null", [
    slug,
  ]);
  if (rowCount === 0) throw new RelayError("not-found", { what: `The profile ${slug}` });
}

function requireNone(what: string, dependants: readonly string[]): void {
  if (dependants.length === 0) return;
  const more = dependants.length > MOST_NAMED ? ` and ${dependants.length - MOST_NAMED} more` : "";
  throw new RelayError("depended-on", { what, by: `${dependants.slice(0, MOST_NAMED).join(", ")}${more}` });
}
