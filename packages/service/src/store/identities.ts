/** Members, sessions, inlets and keys: who may ask. Tokens are stored as SHA-256 only. */
import type { Role, Standing } from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface MemberRecord {
  readonly id: number;
  readonly name: string;
  readonly passwordHash: string;
  readonly standing: Standing;
}

export interface InletRecord {
  readonly id: number;
  readonly slug: string;
  readonly name: string;
  /** Requests may only name channels of this site; null: of every site. */
  readonly site: string | null;
}

/** Who holds a key: a member, or an inlet. */
export interface KeyHolder {
  readonly keyId: number;
  readonly tokenSha256: Buffer;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
  /** The most that the key may do. */
  readonly most: Role | null;
  readonly member: string | null;
  readonly standing: Standing;
  readonly inlet: string | null;
}

/** Of `member m`. */
const STANDING = `json_build_object('team', m.role, 'sites', coalesce((
  select json_object_agg(s.slug, ms.role) from membership ms join site s on s.id = ms.site_id
  where ms.member_id = m.id), '{}'))`;

export async function findMember(db: Db, name: string): Promise<MemberRecord | null> {
  const { rows } = await db.query<MemberRecord>(
    `select m.id, m.name, m.password_hash as "passwordHash", ${STANDING} as standing
     from member m where lower(m.name) = lower($1)`,
    [name],
  );
  return rows[0] ?? null;
}

/** Adds a member, or gives the one of this name a new password. That also ends all of their sessions. */
export async function saveMember(db: Db, name: string, passwordHash: string, role: Role | null): Promise<number> {
  const { rows } = await db.query<{ id: number }>(
    `insert into member (name, password_hash, role) values ($1, $2, $3)
     on conflict (lower(name)) do update set password_hash = excluded.password_hash, role = excluded.role returning id`,
    [name, passwordHash, role],
  );
  const id = rows[0]?.id ?? 0;
  await closeSessionsOf(db, id);
  return id;
}

async function closeSessionsOf(db: Db, memberId: number): Promise<void> {
  await db.query("delete from session where member_id = $1", [memberId]);
}

export async function openSession(db: Db, tokenSha256: Buffer, memberId: number, livesMs: number): Promise<void> {
  await db.query("delete from session where expires_at < now()");
  await db.query(
    `insert into session (token_sha256, member_id, expires_at)
     values ($1, $2, now() + $3 * interval '1 millisecond')`,
    [tokenSha256, memberId, livesMs],
  );
}

export async function findSession(db: Db, tokenSha256: Buffer): Promise<{ member: string; standing: Standing } | null> {
  const { rows } = await db.query<{ member: string; standing: Standing }>(
    `select m.name as member, ${STANDING} as standing from session s join member m on m.id = s.member_id
     where s.token_sha256 = $1 and s.expires_at > now()`,
    [tokenSha256],
  );
  return rows[0] ?? null;
}

export async function closeSession(db: Db, tokenSha256: Buffer): Promise<void> {
  await db.query("delete from session where token_sha256 = $1", [tokenSha256]);
}

const KEY_HOLDER = `
  select k.id as "keyId", k.token_sha256 as "tokenSha256", k.most, m.name as member, ${STANDING} as standing,
    i.slug as inlet, extract(epoch from k.expires_at)::float8 * 1000 as "expiresAt"
  from api_key k left join member m on m.id = k.member_id left join inlet i on i.id = k.inlet_id
  where k.revoked_at is null and (k.expires_at is null or k.expires_at > now())`;

export async function findKey(db: Db, tokenSha256: Buffer): Promise<KeyHolder | null> {
  const { rows } = await db.query<KeyHolder>(`${KEY_HOLDER} and k.token_sha256 = $1`, [tokenSha256]);
  return rows[0] ?? null;
}

export async function findInletKeys(db: Db): Promise<KeyHolder[]> {
  const { rows } = await db.query<KeyHolder>(`${KEY_HOLDER} and k.inlet_id is not null`);
  return rows;
}

export async function findInlets(db: Db): Promise<InletRecord[]> {
  const { rows } = await db.query<InletRecord>(
    `select i.id, i.slug, i.name, s.slug as site from inlet i left join site s on s.id = i.site_id order by i.slug`,
  );
  return rows;
}

/** @throws Error when the site does not exist */
export async function saveInlet(db: Db, inlet: { slug: string; name: string; site: string | null }): Promise<number> {
  const { rows } = await db.query<{ id: number }>(
    `insert into inlet (slug, name, kind, site_id)
     select $1, $2, 'web', s.id from (select $3::text as slug) wanted left join site s on s.slug = wanted.slug
     where wanted.slug is null or s.id is not null
     on conflict (slug) do update set name = excluded.name, site_id = excluded.site_id returning id`,
    [inlet.slug, inlet.name, inlet.site],
  );
  if (!rows[0]) throw new Error(`There is no site “${inlet.site}”.`);
  return rows[0].id;
}
