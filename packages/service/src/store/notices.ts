/** Notices, and the log of telling them. */
import { type NoticeDescription, RelayError } from "@bold-relay/core";
import type { Db } from "./pool.ts";
import type { SiteCheck } from "./site-check.ts";

export interface NoticeRow {
  readonly notice: NoticeDescription;
  readonly version: number;
  /** Sealed. */
  readonly secret: Buffer | null;
}

export interface NoticeDelivery {
  readonly id: string;
  readonly notice: string;
  readonly madeAt: number;
  readonly event: object;
  readonly tries: number;
  /** ms since 1970; null: it has ended. */
  readonly nextAt: number | null;
  readonly deliveredAt: number | null;
  readonly trouble: string | null;
}

const COLUMNS = `id, notice, event, tries, trouble, extract(epoch from made_at)::float8 * 1000 as "madeAt",
  extract(epoch from next_at)::float8 * 1000 as "nextAt", extract(epoch from delivered_at)::float8 * 1000 as "deliveredAt"`;

export async function findNotices(db: Db): Promise<NoticeRow[]> {
  const { rows } = await db.query<NoticeRow>("select body as notice, version, secret from notice order by slug");
  return rows;
}

/**
 * Adds a notice, or makes the one of the same slug as described. One that moves to another site leaves its secret behind.
 *
 * @returns the notice before, and the version now
 * @throws RelayError changed-meanwhile, exists-already where it is somebody else's, or what the check throws
 */
export async function saveNotice(
  db: Db,
  notice: NoticeDescription,
  version: number | null,
  check: SiteCheck,
): Promise<{ before: NoticeDescription | null; version: number }> {
  check.wanted(notice.site);
  const stored = await findStored(db, notice.slug);
  try {
    if (stored) check.stored(stored.notice.site);
  } catch (cause) {
    throw new RelayError("exists-already", { what: `A notice with the identifier ${notice.slug}` }, { cause });
  }
  const current = stored?.version ?? 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The notice ${notice.slug}`, version: current });
  const moves = stored !== null && stored.notice.site !== notice.site;
  const { rows } = await db.query(
    `insert into notice (slug, body) values ($1, $2)
     on conflict (slug) do update set body = excluded.body, version = notice.version + 1,
       secret = case when $3::boolean then null else notice.secret end
     returning version`,
    [notice.slug, JSON.stringify(notice), moves],
  );
  return { before: stored?.notice ?? null, version: rows[0].version };
}

/** Locked until the transaction ends: nobody moves it between the check and the change. */
async function findStored(db: Db, slug: string): Promise<Pick<NoticeRow, "notice" | "version"> | null> {
  const { rows } = await db.query("select body as notice, version from notice where slug = $1 for update", [slug]);
  return rows[0] ?? null;
}

/** @throws RelayError not-found, or what the check throws */
async function existing(db: Db, slug: string, check: SiteCheck): Promise<NoticeDescription> {
  const stored = await findStored(db, slug);
  if (!stored) throw new RelayError("not-found", { what: `The notice ${slug}` });
  check.stored(stored.notice.site);
  return stored.notice;
}

/** @returns what it was. @throws RelayError not-found, or what the check throws */
export async function removeNotice(db: Db, slug: string, check: SiteCheck): Promise<NoticeDescription> {
  const notice = await existing(db, slug, check);
  await db.query("delete from notice where slug = $1", [slug]);
  return notice;
}

/** @throws RelayError not-found, or what the check throws */
export async function saveNoticeSecret(db: Db, slug: string, sealed: Buffer, check: SiteCheck): Promise<void> {
  await existing(db, slug, check);
  await db.query("update notice set secret = $2 where slug = $1", [slug, sealed]);
}

/** One that was taken away meanwhile is left out. */
export async function addDeliveries(
  db: Db,
  all: readonly { id: string; notice: string; event: object }[],
): Promise<void> {
  await db.query(
    `insert into notice_delivery (id, notice, event)
     select d.id, d.notice, d.event from json_to_recordset($1) as d(id uuid, notice text, event json)
       join notice on notice.slug = d.notice`,
    [JSON.stringify(all)],
  );
}

/** Those that are due, the oldest first. */
export async function findDue(db: Db, limit: number): Promise<NoticeDelivery[]> {
  const { rows } = await db.query<NoticeDelivery>(
    `select ${COLUMNS} from notice_delivery where next_at <= now() order by next_at, id limit $1`,
    [limit],
  );
  return rows;
}

/** @param waitMs until the next try; null: there is none. @param trouble null: it was taken */
export async function settleDelivery(db: Db, id: string, trouble: string | null, waitMs: number | null): Promise<void> {
  await db.query(
    `update notice_delivery set tries = tries + 1, trouble = $2, next_at = now() + $3::float8 * interval '1 millisecond',
       delivered_at = case when $2::text is null then now() end where id = $1`,
    [id, trouble, waitMs],
  );
}

/** The newest of a notice. */
export async function findDeliveriesOf(db: Db, notice: string, limit: number): Promise<NoticeDelivery[]> {
  const { rows } = await db.query<NoticeDelivery>(
    `select ${COLUMNS} from notice_delivery where notice = $1 order by id desc limit $2`,
    [notice, limit],
  );
  return rows;
}

/** The log is kept for a week. */
export async function forgetDeliveries(db: Db): Promise<void> {
  await db.query("delete from notice_delivery where next_at is null and made_at < now() - interval '7 days'");
}
