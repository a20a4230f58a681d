/** What members prove who they are with, beside the password: second factor, recovery codes, passkeys, sessions, reset links. */
import type { Role } from "@bold-relay/core";
import type { Db } from "./pool.ts";

export interface SecondFactor {
  /** Sealed; null: there is none, or it is not confirmed. */
  readonly totpSecret: Buffer | null;
  readonly totpStep: number | null;
  readonly recoveryCodes: number;
  readonly passkeys: readonly PasskeyRecord[];
}

export interface PasskeyRecord {
  readonly id: string;
  readonly memberId: number;
  readonly name: string;
  readonly rpId: string;
  readonly publicKey: Buffer;
  readonly counter: number;
  readonly transports: readonly string[];
  /** ms since 1970. */
  readonly createdAt: number;
  readonly usedAt: number | null;
}

const PASSKEY = `id, member_id as "memberId", name, rp_id as "rpId", public_key as "publicKey", counter::float8 as counter, transports,
  extract(epoch from created_at)::float8 * 1000 as "createdAt", extract(epoch from used_at)::float8 * 1000 as "usedAt"`;

export async function findSecondFactor(db: Db, memberId: number): Promise<SecondFactor> {
  const { rows } = await db.query<Omit<SecondFactor, "passkeys">>(
    `select case when totp_since is not null then totp_secret end as "totpSecret", totp_step::float8 as "totpStep",
       (select count(*)::int from recovery_code r where r.member_id = m.id) as "recoveryCodes"
     from member m where id = $1`,
    [memberId],
  );
  const { rows: passkeys } = await db.query<PasskeyRecord>(
    `select ${PASSKEY} from passkey where member_id = $1 order by created_at`,
    [memberId],
  );
  return { totpSecret: null, totpStep: null, recoveryCodes: 0, ...rows[0], passkeys };
}

/** Keeps a secret that counts once it is confirmed; the one before goes on until then only if it is the same. */
export async function saveTotpSecret(db: Db, memberId: number, sealed: Buffer): Promise<void> {
  await db.query("update member set totp_secret = $2, totp_since = null, totp_step = null where id = $1", [
    memberId,
    sealed,
  ]);
}

/** The secret that waits to be confirmed. */
export async function findTotpDraft(db: Db, memberId: number): Promise<Buffer | null> {
  const { rows } = await db.query<{ secret: Buffer | null }>(
    "select totp_secret as secret from member where id = $1 and totp_since is null",
    [memberId],
  );
  return rows[0]?.secret ?? null;
}

/** From now on codes are asked for; the codes for recovery are these. */
export async function confirmTotp(db: Db, memberId: number, step: number, codes: readonly Buffer[]): Promise<void> {
  await db.query(`update member set totp_since = now(), totp_step = $2, ${REMOVAL_IS_OVER} where id = $1`, [
    memberId,
    step,
  ]);
  await db.query("delete from recovery_code where member_id = $1", [memberId]);
  await db.query("insert into recovery_code (code_sha256, member_id) select unnest($2::bytea[]), $1", [
    memberId,
    codes,
  ]);
}

export async function dropTotp(db: Db, memberId: number): Promise<void> {
  await db.query("update member set totp_secret = null, totp_since = null, totp_step = null where id = $1", [memberId]);
  await db.query("delete from recovery_code where member_id = $1", [memberId]);
}

/** Authenticator app, recovery codes and passkeys. */
export async function dropSecondFactor(db: Db, memberId: number): Promise<void> {
  await dropTotp(db, memberId);
  await db.query("delete from passkey where member_id = $1", [memberId]);
}

/**
 * Takes off the second factor of somebody else, and ends their sessions. They are told until they have a new one.
 *
 * @returns false when there was none
 */
export async function removeSecondFactor(db: Db, memberId: number, by: string): Promise<boolean> {
  const { rowCount } = await db.query(
    `update member set second_factor_removed_at = now(), second_factor_removed_by = $2
     where id = $1 and (totp_since is not null or exists (select from passkey where member_id = $1))`,
    [memberId, by],
  );
  if (rowCount === 0) return false;
  await dropSecondFactor(db, memberId);
  await db.query("delete from session where member_id = $1", [memberId]);
  return true;
}

/** Who took off a member's second factor, and when (ms since 1970); null: nobody, or they have a new one. */
export async function findSecondFactorRemoval(db: Db, memberId: number): Promise<{ by: string; at: number } | null> {
  const { rows } = await db.query<{ by: string; at: number }>(
    `select second_factor_removed_by as by, extract(epoch from second_factor_removed_at)::float8 * 1000 as at
     from member where id = $1 and second_factor_removed_at is not null`,
    [memberId],
  );
  return rows[0] ?? null;
}

const REMOVAL_IS_OVER = "second_factor_removed_at = null, second_factor_removed_by = null";

/** @returns false when a code of this time step, or of a later one, was taken before */
export async function takeTotpStep(db: Db, memberId: number, step: number): Promise<boolean> {
  const { rowCount } = await db.query(
    "update member set totp_step = $2 where id = $1 and (totp_step is null or totp_step < $2)",
    [memberId, step],
  );
  return rowCount === 1;
}

/** @returns whether it was one of theirs; it is none any more */
export async function takeRecoveryCode(db: Db, memberId: number, codeSha256: Buffer): Promise<boolean> {
  const { rowCount } = await db.query("delete from recovery_code where member_id = $1 and code_sha256 = $2", [
    memberId,
    codeSha256,
  ]);
  return rowCount === 1;
}

export async function savePasskey(db: Db, key: Omit<PasskeyRecord, "createdAt" | "usedAt">): Promise<void> {
  await db.query(
    `insert into passkey (id, member_id, name, rp_id, public_key, counter, transports) values ($1, $2, $3, $4, $5, $6, $7)`,
    [key.id, key.memberId, key.name, key.rpId, key.publicKey, key.counter, key.transports],
  );
  await db.query(`update member set ${REMOVAL_IS_OVER} where id = $1`, [key.memberId]);
}

export async function findPasskey(db: Db, id: string): Promise<PasskeyRecord | null> {
  const { rows } = await db.query<PasskeyRecord>(`select ${PASSKEY} from passkey where id = $1`, [id]);
  return rows[0] ?? null;
}

export async function notePasskeyUse(db: Db, id: string, counter: number): Promise<void> {
  await db.query("update passkey set counter = $2, used_at = now() where id = $1", [id, counter]);
}

/** @returns its name; null when the member has none of this id */
export async function removePasskey(db: Db, memberId: number, id: string): Promise<string | null> {
  const { rows } = await db.query<{ name: string }>(
    "delete from passkey where member_id = $1 and id = $2 returning name",
    [memberId, id],
  );
  return rows[0]?.name ?? null;
}

export interface SessionRecord {
  readonly id: string;
  readonly tokenSha256: Buffer;
  /** ms since 1970. */
  readonly createdAt: number;
  readonly seenAt: number;
  readonly expiresAt: number;
  readonly address: string | null;
  readonly agent: string | null;
  readonly proof: string;
}

/** Those that have not ended, the newest first. */
export async function findSessionsOf(db: Db, memberId: number, idleMs: number): Promise<SessionRecord[]> {
  const { rows } = await db.query<SessionRecord>(
    `select id, token_sha256 as "tokenSha256", extract(epoch from created_at)::float8 * 1000 as "createdAt",
       extract(epoch from seen_at)::float8 * 1000 as "seenAt", extract(epoch from expires_at)::float8 * 1000 as "expiresAt",
       address, agent, proof
     from session where member_id = $1 and expires_at > now() and seen_at > now() - $2 * interval '1 millisecond'
     order by created_at desc`,
    [memberId, idleMs],
  );
  return rows;
}

/** @returns whether the member had one of this id */
export async function closeSessionOf(db: Db, memberId: number, id: string): Promise<boolean> {
  const { rowCount } = await db.query("delete from session where member_id = $1 and id = $2", [memberId, id]);
  return rowCount === 1;
}

/** Every session, every link for a new password, and every key where the member says so. @returns how many keys ended */
export async function endEverythingOf(db: Db, memberId: number, alsoKeys: boolean): Promise<number> {
  await db.query("delete from session where member_id = $1", [memberId]);
  await forgetDevices(db, memberId);
  const ended = alsoKeys ? await endKeysOf(db, memberId) : 0;
  await db.query("delete from password_reset where member_id = $1", [memberId]);
  return ended;
}

/** @returns how many ended */
export async function endKeysOf(db: Db, memberId: number): Promise<number> {
  const { rowCount } = await db.query(
    "update api_key set revoked_at = now() where member_id = $1 and revoked_at is null",
    [memberId],
  );
  return rowCount ?? 0;
}

/** The links of before end. */
export async function saveReset(db: Db, memberId: number, tokenSha256: Buffer, livesMs: number): Promise<void> {
  await db.query("delete from password_reset where member_id = $1 or expires_at < now()", [memberId]);
  await db.query(
    `insert into password_reset (token_sha256, member_id, expires_at) values ($1, $2, now() + $3 * interval '1 millisecond')`,
    [tokenSha256, memberId, livesMs],
  );
}

/** Whose link it is, if it counts; locked until the transaction ends, so that it works once. */
export async function findReset(db: Db, tokenSha256: Buffer): Promise<{ memberId: number; name: string } | null> {
  const { rows } = await db.query<{ memberId: number; name: string }>(
    `select m.id as "memberId", m.name from password_reset r join member m on m.id = r.member_id
     where r.token_sha256 = $1 and r.expires_at > now() for update of r`,
    [tokenSha256],
  );
  return rows[0] ?? null;
}

/** How long an address is remembered. */
const REMEMBERED = "30 days";

export async function isKnownAddress(db: Db, memberId: number, address: string): Promise<boolean> {
  const { rowCount } = await db.query(
    `select from member_address where member_id = $1 and address = $2 and at > now() - interval '${REMEMBERED}'`,
    [memberId, address],
  );
  return rowCount === 1;
}

export async function rememberAddress(db: Db, memberId: number, address: string): Promise<void> {
  await db.query(`delete from member_address where at < now() - interval '${REMEMBERED}'`);
  await db.query(
    `insert into member_address (member_id, address) values ($1, $2)
     on conflict (member_id, address) do update set at = now()`,
    [memberId, address],
  );
}

/** How long a browser is remembered in which somebody has signed in. */
const DEVICE_REMEMBERED = "90 days";
/** Of one member: the latest. */
const MOST_DEVICES = 50;

/** The id of a browser in which this member has signed in before; null: it is not known. */
export async function findDevice(db: Db, memberId: number, tokenSha256: Buffer): Promise<number | null> {
  const { rows } = await db.query<{ id: number }>(
    `select id from member_device where member_id = $1 and token_sha256 = $2 and at > now() - interval '${DEVICE_REMEMBERED}'`,
    [memberId, tokenSha256],
  );
  return rows[0]?.id ?? null;
}

/**
 * Gives a browser a new token, for all who have signed in there, and remembers that this member has. A token that somebody else knows or
 * has put there is of no use after it.
 *
 * @param before the token that it has shown; null: none
 */
export async function rememberDevice(
  db: Db,
  memberId: number,
  before: Buffer | null,
  tokenSha256: Buffer,
): Promise<void> {
  await db.query("update member_device set token_sha256 = $2 where token_sha256 = $1", [before, tokenSha256]);
  await db.query(
    `insert into member_device (member_id, token_sha256) values ($1, $2)
     on conflict (token_sha256, member_id) do update set at = now()`,
    [memberId, tokenSha256],
  );
  await db.query(
    `delete from member_device where at < now() - interval '${DEVICE_REMEMBERED}' or (member_id = $1 and id not in (
       select id from member_device where member_id = $1 order by at desc limit ${MOST_DEVICES}))`,
    [memberId],
  );
}

/** Who had the password before is known nowhere any more. */
async function forgetDevices(db: Db, memberId: number): Promise<void> {
  await db.query("delete from member_device where member_id = $1", [memberId]);
  await db.query("delete from member_address where member_id = $1", [memberId]);
}

export async function findSecondFactorRule(db: Db): Promise<Role[]> {
  const { rows } = await db.query<{ roles: Role[] }>("select second_factor_for as roles from team_rule");
  return rows[0]?.roles ?? [];
}

export async function saveSecondFactorRule(db: Db, roles: readonly Role[]): Promise<void> {
  await db.query("update team_rule set second_factor_for = $1", [roles]);
}
