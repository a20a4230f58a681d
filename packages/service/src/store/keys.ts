/** API keys: created, rotated with an overlap, revoked. What is stored is never enough to use one. */
import type { KeyLimits } from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface KeyRecord extends KeyLimits {
  readonly id: number;
  readonly name: string;
  /** Whose it is: a member's, by id and name, or an inlet's. */
  readonly memberId: number | null;
  readonly member: string | null;
  readonly inlet: string | null;
  /** Slug of the inlet's site; null: of every site, or it is a member's. */
  readonly inletSite: string | null;
  /** ms since 1970. */
  readonly createdAt: number;
  /** Whether it may export the request log. */
  readonly mayExport: boolean;
  /** The name of the member who created it; null: the set-up program, or it is not known. */
  readonly createdBy: string | null;
  /** Whether that member is deleted. */
  readonly creatorIsGone: boolean;
}

export interface NewKey extends Partial<KeyLimits> {
  readonly name: string;
  readonly tokenSha256: Buffer;
  /** Default false. */
  readonly mayExport?: boolean;
  /** The member who creates it; left out: the set-up program. */
  readonly createdBy?: { readonly memberId: number; readonly name: string };
  /** How long the holder's earlier keys of the same name still count, ms; default 0: they end at once. */
  readonly overlapMs?: number;
}

export type KeyOf = { readonly memberId: number } | { readonly inletId: number };

/** Adds a key of a member or an inlet; the holder's earlier keys of the same name end, after the overlap. */
export async function saveKey(db: Db, key: NewKey & KeyOf): Promise<number> {
  const memberId = "memberId" in key ? key.memberId : null;
  const inletId = "inletId" in key ? key.inletId : null;
  const { name, tokenSha256, most = null, sites = null, expiresAt = null, overlapMs = 0 } = key;
  await db.query(
    `update api_key set
       revoked_at = case when $4::float8 = 0 then now() end,
       expires_at = least(expires_at, now() + $4::float8 * interval '1 millisecond')
     where name = $1 and member_id is not distinct from $2 and inlet_id is not distinct from $3 and revoked_at is null`,
    [name, memberId, inletId, overlapMs],
  );
  const { mayExport = false, createdBy } = key;
  const { rows } = await db.query<{ id: number }>(
    `insert into api_key (name, token_sha256, member_id, inlet_id, most, sites, expires_at, may_export, created_by_id, created_by)
     values ($1, $2, $3, $4, $5, $6, to_timestamp($7::float8 / 1000), $8, $9, $10) returning id`,
    [name, tokenSha256, memberId, inletId, most, sites, expiresAt, mayExport, createdBy?.memberId, createdBy?.name],
  );
  return rows[0]?.id ?? 0;
}

/** Keys that count. */
export async function findKeys(db: Db): Promise<KeyRecord[]> {
  const { rows } = await db.query<KeyRecord>(
    `select k.id, k.name, k.member_id as "memberId", m.name as member, i.slug as inlet, s.slug as "inletSite", k.most, k.sites,
       k.may_export as "mayExport", coalesce(c.name, k.created_by) as "createdBy",
       k.created_by is not null and c.id is null as "creatorIsGone",
       extract(epoch from k.created_at)::float8 * 1000 as "createdAt",
       extract(epoch from k.expires_at)::float8 * 1000 as "expiresAt"
     from api_key k left join member m on m.id = k.member_id left join inlet i on i.id = k.inlet_id
       left join member c on c.id = k.created_by_id left join site s on s.id = i.site_id
     where k.revoked_at is null and (k.expires_at is null or k.expires_at > now())
     order by m.name nulls last, i.slug, k.name, k.id`,
  );
  return rows;
}

/** A key that counts, and every key that was created with it, when keys could create keys. */
const LINE = `line as (
  select id from api_key where id = $1 and revoked_at is null
  union
  select k.id from api_key k join line on k.made_by = line.id
)`;

/**
 * Ends a key, and every key that was made with it.
 *
 * @returns how many ended; 0 when none of this id counted
 */
export async function revokeKey(db: Db, id: number): Promise<number> {
  // Before they are looked for: a key that is being made with one of them is there after it.
  await db.query(
    `with recursive ${LINE} select from api_key where id in (select id from line) order by id for update`,
    [id],
  );
  const { rowCount } = await db.query(
    `with recursive ${LINE}
     update api_key set revoked_at = now() where id in (select id from line) and revoked_at is null`,
    [id],
  );
  return rowCount ?? 0;
}

/** Ends the keys of inlets that this member has created. @returns them, as "name, of inlet" */
export async function revokeInletKeysBy(db: Db, memberId: number): Promise<string[]> {
  const { rows } = await db.query<{ called: string }>(
    `update api_key k set revoked_at = now() from inlet i
     where i.id = k.inlet_id and k.created_by_id = $1 and k.revoked_at is null returning k.name || ', of ' || i.slug as called`,
    [memberId],
  );
  return rows.map(({ called }) => called);
}
