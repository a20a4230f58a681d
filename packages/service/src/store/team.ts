/** Members and their roles. */
import { nameLook, type Standing } from "@bold-relay/core";
import { revokeInletKeysBy } from "./keys.ts";
import type { Db } from "./pool.ts";

export interface TeamMember {
  readonly id: number;
  readonly name: string;
  readonly standing: Standing;
  readonly secondFactor: boolean;
  /** ms since 1970. */
  readonly since: number;
}

export async function findTeam(db: Db): Promise<TeamMember[]> {
  const { rows } = await db.query<TeamMember>(
    `select m.id, m.name, extract(epoch from m.created_at)::float8 * 1000 as since,
       json_build_object('team', m.role, 'sites', coalesce((
         select json_object_agg(s.slug, ms.role) from membership ms join site s on s.id = ms.site_id
         where ms.member_id = m.id), '{}')) as standing,
       m.totp_since is not null or exists (select from passkey p where p.member_id = m.id) as "secondFactor"
     from member m order by lower(m.name)`,
  );
  return rows;
}

/**
 * Makes a member's roles exactly these.
 *
 * @returns the first site that does not exist; null when all do
 */
export async function setStanding(db: Db, memberId: number, { team, sites }: Standing): Promise<string | null> {
  await db.query("update member set role = $2 where id = $1", [memberId, team]);
  await db.query("delete from membership where member_id = $1", [memberId]);
  for (const [slug, role] of Object.entries(sites)) {
    const { rowCount } = await db.query(
      "insert into membership (member_id, site_id, role) select $1, id, $3 from site where slug = $2 and removed_at is null",
      [memberId, slug, role],
    );
    if (rowCount === 0) return slug;
  }
  return null;
}

export async function countOwners(db: Db): Promise<number> {
  const { rows } = await db.query<{ n: number }>("select count(*)::int as n from member where role = 'owner'");
  return rows[0]?.n ?? 0;
}

/** The name of a member who cannot be told apart from this one; null: there is none. */
export async function findLookAlike(db: Db, name: string): Promise<string | null> {
  const { rows } = await db.query<{ name: string }>("select name from member");
  const look = nameLook(name);
  return rows.find((one) => nameLook(one.name) === look)?.name ?? null;
}

/**
 * Sessions, keys and links go with the member, in the same transaction.
 *
 * @param alsoInletKeys whether the keys of inlets that they have created end too
 * @returns those that ended, as "name, of inlet"
 */
export async function removeMember(db: Db, id: number, alsoInletKeys: boolean): Promise<string[]> {
  // Before anything else: what they are storing just now is there after it, and goes too.
  await db.query("select from member where id = $1 for update", [id]);
  const revoked = alsoInletKeys ? await revokeInletKeysBy(db, id) : [];
  await db.query("update inlet_link set revoked_at = now() where member_id = $1 and revoked_at is null", [id]);
  await db.query("delete from member where id = $1", [id]);
  return revoked;
}

export async function setPassword(db: Db, memberId: number, passwordHash: string): Promise<void> {
  await db.query("update member set password_hash = $2 where id = $1", [memberId, passwordHash]);
}

/** Every other session of the member ends; the one that is named goes on. */
export async function changePassword(
  db: Db,
  memberId: number,
  passwordHash: string,
  keptSession: Buffer | null,
): Promise<void> {
  await setPassword(db, memberId, passwordHash);
  await db.query("delete from session where member_id = $1 and token_sha256 is distinct from $2", [
    memberId,
    keptSession,
  ]);
}
