/** Inlets as they are described, with their versions; their keys are in `keys.ts`. */
import { type InletDescription, RelayError } from "@bold-relay/core";
import { keepVersion } from "./description-versions.ts";
import { requireKnownSite } from "./model.ts";
import type { Db } from "./pool.ts";
import type { SiteCheck } from "./site-check.ts";

export interface InletRow {
  readonly id: number;
  readonly inlet: InletDescription;
  readonly version: number;
  /** Sealed. */
  readonly secret: Buffer | null;
  readonly keys: number;
}

const ROWS = `
  select i.id, i.slug, i.name, i.kind, s.slug as site, i.body, i.version, i.secret,
    (select count(*)::int from api_key k where k.inlet_id = i.id and k.revoked_at is null
      and (k.expires_at is null or k.expires_at > now())) as keys
  from inlet i left join site s on s.id = i.site_id`;

export async function findInletRows(db: Db): Promise<InletRow[]> {
  const { rows } = await db.query(`${ROWS} order by i.slug`);
  return rows.map(({ id, slug, name, kind, site, body, version, secret, keys }) => ({
    id,
    inlet: { slug, name, kind, site, ...body },
    version,
    secret,
    keys,
  }));
}

/**
 * Adds an inlet, or makes the one of the same slug as described. One that moves to another site leaves its secrets behind: its
 * keys end, its secret and its links go.
 *
 * @param by who saves it, for its versions
 * @param version that the description was made from, 0 for one that is not there so far; null: whatever it is
 * @throws RelayError changed-meanwhile, identifier-retired, exists-already where it is somebody else's, or what the check throws
 */
export async function saveInletBody(
  db: Db,
  inlet: InletDescription,
  by: string,
  version: number | null,
  check: SiteCheck,
): Promise<number> {
  const { slug, name, kind, site, ...body } = inlet;
  check.wanted(site);
  // An inlet of a site that is gone would be one of every site.
  if (site !== null) await requireKnownSite(db, site);
  const stored = await findStored(db, slug);
  if (stored) requireTheirs(slug, stored.site, check);
  const { rowCount: retired } = await db.query("select from retired_inlet where slug = $1", [slug]);
  if (!stored && retired) throw new RelayError("identifier-retired", { slug });
  const current = stored?.version ?? 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The inlet ${slug}`, version: current });
  await keepVersion(db, "inlet", slug, null);
  if (stored && stored.site !== site) await leaveSecretsBehind(db, stored.id);
  const { rows } = await db.query(
    `insert into inlet (slug, name, kind, site_id, body)
     values ($1, $2, $3, (select id from site where slug = $4 and removed_at is null), $5)
     on conflict (slug) do update set name = excluded.name, kind = excluded.kind, site_id = excluded.site_id,
       body = excluded.body, version = inlet.version + 1
     returning version`,
    [slug, name, kind, site, body],
  );
  await keepVersion(db, "inlet", slug, by);
  return rows[0].version;
}

interface StoredInlet {
  readonly id: number;
  readonly version: number;
  readonly site: string | null;
}

/** Locked until the transaction ends: nobody moves it between the check and the change. */
async function findStored(db: Db, slug: string): Promise<StoredInlet | null> {
  const { rows } = await db.query<StoredInlet>(
    `select i.id, i.version, s.slug as site from inlet i left join site s on s.id = i.site_id
     where i.slug = $1 for update of i`,
    [slug],
  );
  return rows[0] ?? null;
}

/** Whose it is they do not learn, only that it is taken. */
function requireTheirs(slug: string, site: string | null, check: SiteCheck): void {
  try {
    check.stored(site);
  } catch (cause) {
    throw new RelayError("exists-already", { what: `An inlet with the identifier ${slug}` }, { cause });
  }
}

async function leaveSecretsBehind(db: Db, id: number): Promise<void> {
  await db.query("update inlet set secret = null where id = $1", [id]);
  await db.query("update api_key set revoked_at = now() where inlet_id = $1 and revoked_at is null", [id]);
  await db.query("update inlet_link set revoked_at = now() where inlet_id = $1 and revoked_at is null", [id]);
}

/**
 * Its keys and links go with it, and its identifier is never used again.
 *
 * @param version that it was looked at; null: whatever it is
 * @throws RelayError not-found, changed-meanwhile, or what the check throws
 */
export async function removeInlet(db: Db, slug: string, version: number | null, check: SiteCheck): Promise<void> {
  const { site, version: current } = await existing(db, slug, check);
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The inlet ${slug}`, version: current });
  await keepVersion(db, "inlet", slug, null);
  await db.query("delete from inlet where slug = $1", [slug]);
  await db.query("insert into retired_inlet (slug, site) values ($1, $2) on conflict do nothing", [slug, site]);
}

/** @throws RelayError not-found, or what the check throws */
export async function saveInletSecret(db: Db, slug: string, sealed: Buffer, check: SiteCheck): Promise<void> {
  await existing(db, slug, check);
  await db.query("update inlet set secret = $2 where slug = $1", [slug, sealed]);
}

async function existing(db: Db, slug: string, check: SiteCheck): Promise<StoredInlet> {
  const stored = await findStored(db, slug);
  if (!stored) throw new RelayError("not-found", { what: `The inlet ${slug}` });
  check.stored(stored.site);
  return stored;
}
