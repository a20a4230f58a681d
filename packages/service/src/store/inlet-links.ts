/** Links for people: each signed with its inlet's secret, and on record, so that one of them can be revoked by itself. */
import type { Db } from "./pool.ts";

export interface InletLink {
  readonly id: string;
  readonly phrase: string;
  /** The member's name. */
  readonly madeBy: string;
  /** ms since 1970. */
  readonly madeAt: number;
  readonly until: number;
}

/** @param memberId who makes it: the link ends with them */
export async function saveLink(db: Db, slug: string, memberId: number, link: Omit<InletLink, "madeAt">): Promise<void> {
  await db.query(
    `insert into inlet_link (id, inlet_id, member_id, phrase, made_by, until)
     select $2, id, $3, $4, $5, to_timestamp($6::float8 / 1000) from inlet where slug = $1`,
    [slug, link.id, memberId, link.phrase, link.madeBy, link.until],
  );
}

/** Neither revoked nor expired. */
const COUNTS = "l.revoked_at is null and l.until > now()";

/** Those that count, newest first. */
export async function findLinks(db: Db, slug: string, limit: number): Promise<InletLink[]> {
  const { rows } = await db.query<InletLink>(
    `select l.id, l.phrase, l.made_by as "madeBy", extract(epoch from l.made_at)::float8 * 1000 as "madeAt",
       extract(epoch from l.until)::float8 * 1000 as until
     from inlet_link l join inlet i on i.id = l.inlet_id where i.slug = $1 and ${COUNTS} order by l.made_at desc limit $2`,
    [slug, limit],
  );
  return rows;
}

/** Every link that counts, by its inlet's identifier. */
export async function findAllLinks(db: Db): Promise<{ inlet: string; phrase: string }[]> {
  const { rows } = await db.query<{ inlet: string; phrase: string }>(
    `select distinct i.slug as inlet, l.phrase from inlet_link l join inlet i on i.id = l.inlet_id where ${COUNTS}`,
  );
  return rows;
}

/** Whether a link of this inlet counts still. */
export async function isLinkLive(db: Db, slug: string, id: string): Promise<boolean> {
  const { rowCount } = await db.query(
    `select from inlet_link l join inlet i on i.id = l.inlet_id where i.slug = $1 and l.id = $2 and ${COUNTS}`,
    [slug, id],
  );
  return rowCount === 1;
}

/** @returns the phrase of the link that ended; null when none of this id counted */
export async function revokeLink(db: Db, slug: string, id: string): Promise<string | null> {
  const { rows } = await db.query<{ phrase: string }>(
    `update inlet_link l set revoked_at = now() from inlet i
     where i.id = l.inlet_id and i.slug = $1 and l.id = $2 and ${COUNTS} returning l.phrase`,
    [slug, id],
  );
  return rows[0]?.phrase ?? null;
}
