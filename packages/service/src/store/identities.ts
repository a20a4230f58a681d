/** Members, sessions, inlets and keys: who may ask. Tokens are stored as SHA-256 only. */
import { highestRole, type KeyLimits, NO_LIMITS, type Role, type Standing } from "@bold-relay/core";
import { limits } from "../platform/config/limits.ts";
import type { Db } from "./pool.ts";

export interface MemberRecord {
  readonly id: number;
  readonly name: string;
  readonly passwordHash: string;
  readonly standing: Standing;
}

/** What identifies a member, by whatever they have shown. */
export interface Identity {
  readonly memberId: number;
  readonly name: string;
  readonly standing: Standing;
  readonly keyId: number | null;
  readonly limits: KeyLimits;
  readonly tokenSha256: Buffer;
  /** Their role needs a second factor, and they have none so far. */
  readonly mustEnrol: boolean;
  /** Password, and second factor where there is one, were shown within `limits.recentSignInMs`. Never of a key. */
  readonly isRecent: boolean;
  readonly hasSecondFactor: boolean;
  /** Whether it may export the request log, however long ago it was shown: of a key that was created for that. */
  readonly mayExport: boolean;
}

export interface InletRecord {
  readonly id: number;
  readonly slug: string;
  readonly name: string;
  /** Requests may only name channels of this site; null: of every site. */
  readonly site: string | null;
}

/** An inlet's key, as it is looked for at every call. */
export interface InletKey {
  readonly keyId: number;
  readonly tokenSha256: Buffer;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
  readonly inlet: string;
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

export async function findMemberById(db: Db, id: number): Promise<Pick<MemberRecord, "id" | "name"> | null> {
  const { rows } = await db.query<Pick<MemberRecord, "id" | "name">>("select id, name from member where id = $1", [id]);
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

export interface NewSession {
  readonly tokenSha256: Buffer;
  readonly memberId: number;
  /** How long it lives at most, and how long without a call, ms. */
  readonly livesMs: number;
  readonly address: string | null;
  readonly agent: string | null;
  /** How the member proved who they are, in words. */
  readonly proof: string;
  /** Whether a second factor was part of it. */
  readonly secondFactor: boolean;
}

export async function openSession(db: Db, session: NewSession): Promise<void> {
  const { tokenSha256, memberId, livesMs, address, agent, proof, secondFactor } = session;
  await db.query("delete from session where expires_at < now()");
  await db.query(
    `insert into session (token_sha256, member_id, expires_at, address, agent, proof, second_factor)
     values ($1, $2, now() + $3 * interval '1 millisecond', $4, $5, $6, $7)`,
    [tokenSha256, memberId, livesMs, address, agent, proof, secondFactor],
  );
}

/** Its member has shown a second factor in it: they have just added one. */
export async function noteSecondFactor(db: Db, tokenSha256: Buffer): Promise<void> {
  await db.query("update session set second_factor = true where token_sha256 = $1", [tokenSha256]);
}

/** A session by its token, if it has not ended. Using it puts off its idle limit. */
export async function findSession(db: Db, tokenSha256: Buffer): Promise<Identity | null> {
  return (await findSessions(db, [tokenSha256]))[0] ?? null;
}

/** Noted once a minute: writing each call down would cost more than the call. */
async function findSessions(db: Db, tokens: readonly Buffer[]): Promise<Identity[]> {
  const { rows } = await db.query<SessionRow>(
    `with live as (
       select * from session where token_sha256 = any($1) and expires_at > now()
         and seen_at > now() - $2 * interval '1 millisecond'
     ), noted as (
       update session set seen_at = now() where token_sha256 in (select token_sha256 from live)
         and seen_at < now() - interval '1 minute'
     )
     select m.id as "memberId", m.name, ${STANDING} as standing, s.token_sha256 as "tokenSha256", s.second_factor as "secondShown",
       s.created_at > now() - $3 * interval '1 millisecond' and s.created_at <= now() as "isYoung",
       (m.totp_since is not null or exists (select from passkey p where p.member_id = m.id)) as "hasSecondFactor",
       (select second_factor_for from team_rule) as "neededFor"
     from live s join member m on m.id = s.member_id`,
    [tokens, limits.sessionIdleMs, limits.recentSignInMs],
  );
  return rows.map(({ neededFor, isYoung, secondShown, ...row }) => {
    const role = highestRole(row.standing);
    const mustEnrol = !row.hasSecondFactor && role !== null && neededFor.includes(role);
    const isRecent = isYoung && (secondShown || !row.hasSecondFactor);
    return { ...row, keyId: null, limits: NO_LIMITS, mustEnrol, isRecent, mayExport: false };
  });
}

interface SessionRow extends Pick<Identity, "memberId" | "name" | "standing" | "tokenSha256" | "hasSecondFactor"> {
  readonly isYoung: boolean;
  readonly secondShown: boolean;
  readonly neededFor: readonly Role[];
}

export async function closeSession(db: Db, tokenSha256: Buffer): Promise<void> {
  await db.query("delete from session where token_sha256 = $1", [tokenSha256]);
}

/** Neither revoked nor expired. */
const COUNTS = "k.revoked_at is null and (k.expires_at is null or k.expires_at > now())";
const EXPIRES = `extract(epoch from k.expires_at)::float8 * 1000 as "expiresAt"`;

/** Whose key this is, if it is a member's and counts. */
export async function findKey(db: Db, tokenSha256: Buffer): Promise<Identity | null> {
  return (await findMemberKeys(db, [tokenSha256]))[0] ?? null;
}

async function findMemberKeys(db: Db, tokens: readonly Buffer[]): Promise<Identity[]> {
  const { rows } = await db.query<Omit<Identity, "limits" | "mustEnrol" | "isRecent" | "hasSecondFactor"> & KeyLimits>(
    `select m.id as "memberId", m.name, ${STANDING} as standing, k.id as "keyId", k.token_sha256 as "tokenSha256",
       k.most, k.sites, k.may_export as "mayExport", ${EXPIRES}
     from api_key k join member m on m.id = k.member_id where ${COUNTS} and k.token_sha256 = any($1)`,
    [tokens],
  );
  return rows.map(({ most, sites, expiresAt, ...row }) => ({
    ...row,
    limits: { most, sites, expiresAt },
    mustEnrol: false,
    isRecent: false,
    hasSecondFactor: false,
  }));
}

/**
 * Until the transaction ends nobody takes from this identity what it may do: whoever removes its member, ends its session or its key, or
 * changes its roles or the team's rules, waits.
 */
export async function holdIdentity(
  db: Db,
  { memberId, tokenSha256 }: Pick<Identity, "memberId" | "tokenSha256">,
): Promise<void> {
  // What a statement only names is not locked: each part is counted. A session may be noted as used meanwhile, and not ended.
  await db.query(
    `with holder as (select from member where id = $1 for share),
       roles as (select from membership where member_id = $1 for share),
       shown_key as (select from api_key where token_sha256 = $2 for share),
       shown_session as (select from session where token_sha256 = $2 for key share),
       rules as (select from team_rule for share)
     select (select count(*) from holder), (select count(*) from roles), (select count(*) from shown_key),
       (select count(*) from shown_session), (select count(*) from rules)`,
    [memberId, tokenSha256],
  );
}

/** Whose tokens these are, by their SHA-256 in base64; those that count no more are left out. */
export async function findIdentities(db: Db, tokens: readonly Buffer[]): Promise<Map<string, Identity>> {
  const found = await Promise.all([findSessions(db, tokens), findMemberKeys(db, tokens)]);
  return new Map(found.flat().map((one) => [one.tokenSha256.toString("base64"), one]));
}

export async function findInletKeys(db: Db): Promise<InletKey[]> {
  const { rows } = await db.query<InletKey>(
    `select k.id as "keyId", k.token_sha256 as "tokenSha256", i.slug as inlet, ${EXPIRES}
     from api_key k join inlet i on i.id = k.inlet_id where ${COUNTS}`,
  );
  return rows;
}

export async function findInlets(db: Db): Promise<InletRecord[]> {
  const { rows } = await db.query<InletRecord>(
    `select i.id, i.slug, i.name, s.slug as site from inlet i left join site s on s.id = i.site_id order by i.slug`,
  );
  return rows;
}

/** @throws Error when the site does not exist, or the identifier is retired */
export async function saveInlet(db: Db, inlet: { slug: string; name: string; site: string | null }): Promise<number> {
  const { rows } = await db.query<{ id: number }>(
    `insert into inlet (slug, name, kind, site_id)
     select $1, $2, 'web', s.id from (select $3::text as slug) wanted left join site s on s.slug = wanted.slug and s.removed_at is null
     where (wanted.slug is null or s.id is not null) and not exists (select from retired_inlet r where r.slug = $1)
     on conflict (slug) do update set name = excluded.name, site_id = excluded.site_id returning id`,
    [inlet.slug, inlet.name, inlet.site],
  );
  if (!rows[0])
    throw new Error(`There is no site “${inlet.site}”, or an inlet called ${inlet.slug} was deleted before.`);
  return rows[0].id;
}
