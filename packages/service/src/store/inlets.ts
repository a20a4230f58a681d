/** Inlets as they are described, with their versions; their keys are in `keys.ts`. */
import { type InletDescription, RelayError } from "@bold-relay/core";
import type { Db } from "./pool.ts";

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
 * Adds an inlet, or makes the one of the same slug as described.
 *
 * @param version that the description was made from, 0 for one that is not there so far; null: whatever it is
 * @throws RelayError changed-meanwhile
 */
export async function saveInletBody(db: Db, inlet: InletDescription, version: number | null): Promise<number> {
  const { slug, name, kind, site, ...body } = inlet;
  const { rows: known } = await db.query("select version from inlet where slug = $1 for update", [slug]);
  const current: number = known[0]?.version ?? 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The inlet ${slug}`, version: current });
  const { rows } = await db.query(
    `insert into inlet (slug, name, kind, site_id, body)
     values ($1, $2, $3, (select id from site where slug = $4), $5)
     on conflict (slug) do update set name = excluded.name, kind = excluded.kind, site_id = excluded.site_id,
       body = excluded.body, version = inlet.version + 1
     returning version`,
    [slug, name, kind, site, body],
  );
  return rows[0].version;
}

/** Its keys go with it. @returns whether there was one */
export async function removeInlet(db: Db, slug: string): Promise<boolean> {
  const { rowCount } = await db.query("delete from inlet where slug = $1", [slug]);
  return rowCount === 1;
}

export async function saveInletSecret(db: Db, slug: string, sealed: Buffer): Promise<void> {
  await db.query("update inlet set secret = $2 where slug = $1", [slug, sealed]);
}
