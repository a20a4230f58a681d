/** API keys: made, rotated with an overlap, revoked. What is stored is never enough to use one. */
import type { Role } from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface KeyRecord {
  readonly id: number;
  readonly name: string;
  readonly member: string | null;
  readonly inlet: string | null;
  readonly most: Role | null;
  /** ms since 1970. */
  readonly createdAt: number;
  readonly expiresAt: number | null;
}

export interface NewKey {
  readonly name: string;
  readonly tokenSha256: Buffer;
  readonly most?: Role | null;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt?: number | null;
  /** How long the holder's earlier keys of the same name still count, ms; default 0: they end at once. */
  readonly overlapMs?: number;
}

export type KeyOf = { readonly memberId: number } | { readonly inletId: number };

/** Adds a key of a member or an inlet; the holder's earlier keys of the same name end, after the overlap. */
export async function saveKey(db: Db, key: NewKey & KeyOf): Promise<number> {
  const memberId = "memberId" in key ? key.memberId : null;
  const inletId = "inletId" in key ? key.inletId : null;
  const { name, tokenSha256, most = null, expiresAt = null, overlapMs = 0 } = key;
  await db.query(
    `update api_key set
       revoked_at = case when $4::float8 = 0 then now() end,
       expires_at = least(expires_at, now() + $4::float8 * interval '1 millisecond')
     where name = $1 and member_id is not distinct from $2 and inlet_id is not distinct from $3 and revoked_at is null`,
    [name, memberId, inletId, overlapMs],
  );
  const { rows } = await db.query<{ id: number }>(
    `insert into api_key (name, token_sha256, member_id, inlet_id, most, expires_at)
     values ($1, $2, $3, $4, $5, to_timestamp($6::float8 / 1000)) returning id`,
    [name, tokenSha256, memberId, inletId, most, expiresAt],
  );
  return rows[0]?.id ?? 0;
}

/** Keys that count. */
export async function findKeys(db: Db): Promise<KeyRecord[]> {
  const { rows } = await db.query<KeyRecord>(
    `select k.id, k.name, m.name as member, i.slug as inlet, k.most,
       extract(epoch from k.created_at)::float8 * 1000 as "createdAt",
       extract(epoch from k.expires_at)::float8 * 1000 as "expiresAt"
     from api_key k left join member m on m.id = k.member_id left join inlet i on i.id = k.inlet_id
     where k.revoked_at is null and (k.expires_at is null or k.expires_at > now())
     order by m.name nulls last, i.slug, k.name, k.id`,
  );
  return rows;
}

/** @returns the key that ended; null when none of this id counted */
export async function revokeKey(db: Db, id: number): Promise<{ name: string; holder: string } | null> {
  const { rows } = await db.query<{ name: string; holder: string }>(
    `update api_key k set revoked_at = now() where id = $1 and revoked_at is null
     returning name, coalesce(
       (select m.name from member m where m.id = k.member_id), (select i.slug from inlet i where i.id = k.inlet_id)) as holder`,
    [id],
  );
  return rows[0] ?? null;
}
