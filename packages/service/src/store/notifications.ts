/** Notifications, and the log of telling them. */
import { type NotificationDescription, RelayError } from "@bold-relay/core";
import { keepVersion, NEXT_VERSION } from "./description-versions.ts";
import type { Db } from "./pool.ts";
import type { SiteCheck } from "./site-check.ts";
import { storableJson } from "./storable.ts";

export interface NotificationRow {
  readonly notification: NotificationDescription;
  readonly version: number;
  /** Sealed. */
  readonly secret: Buffer | null;
}

export interface NotificationDelivery {
  readonly id: string;
  readonly notification: string;
  readonly madeAt: number;
  readonly event: object;
  readonly tries: number;
  /** ms since 1970; null: it has ended. */
  readonly nextAt: number | null;
  readonly deliveredAt: number | null;
  readonly trouble: string | null;
}

const COLUMNS = `id, notification, event, tries, trouble, extract(epoch from made_at)::float8 * 1000 as "madeAt",
  extract(epoch from next_at)::float8 * 1000 as "nextAt", extract(epoch from delivered_at)::float8 * 1000 as "deliveredAt"`;

export async function findNotifications(db: Db): Promise<NotificationRow[]> {
  const { rows } = await db.query<NotificationRow>(
    "select body as notification, version, secret from notification order by slug",
  );
  return rows;
}

/**
 * Adds a notification, or makes the one of the same slug as described. One that moves to another site leaves its secret behind.
 *
 * @param by who saves it, for its versions
 * @param version that it was made from, 0 for one that is not there so far; null: whatever it is
 * @returns the notification before, and the version now
 * @throws RelayError changed-meanwhile, exists-already where it is somebody else's, or what the check throws
 */
export async function saveNotification(
  db: Db,
  notification: NotificationDescription,
  by: string,
  version: number | null,
  check: SiteCheck,
): Promise<{ before: NotificationDescription | null; version: number }> {
  check.wanted(notification.site);
  const stored = await findStored(db, notification.slug);
  try {
    if (stored) check.stored(stored.notification.site);
  } catch (cause) {
    throw new RelayError(
      "exists-already",
      { what: `A notification with the identifier ${notification.slug}` },
      { cause },
    );
  }
  const current = stored?.version ?? 0;
  if (version !== null && version !== current)
    throw new RelayError("changed-meanwhile", { what: `The notification ${notification.slug}`, version: current });
  await keepVersion(db, "notification", notification.slug, null);
  const moves = stored !== null && stored.notification.site !== notification.site;
  const { rows } = await db.query(
    `insert into notification (slug, body, version) values ($1, $2, ${NEXT_VERSION("notification", "$1")})
     on conflict (slug) do update set body = excluded.body, version = notification.version + 1,
       secret = case when $3::boolean then null else notification.secret end
     returning version`,
    [notification.slug, storableJson(notification), moves],
  );
  await keepVersion(db, "notification", notification.slug, by);
  return { before: stored?.notification ?? null, version: rows[0].version };
}

/** Locked until the transaction ends: nobody moves it between the check and the change. */
async function findStored(db: Db, slug: string): Promise<Pick<NotificationRow, "notification" | "version"> | null> {
  const { rows } = await db.query("select body as notification, version from notification where slug = $1 for update", [
    slug,
  ]);
  return rows[0] ?? null;
}

/** @throws RelayError not-found, or what the check throws */
async function existing(db: Db, slug: string, check: SiteCheck) {
  const stored = await findStored(db, slug);
  if (!stored) throw new RelayError("not-found", { what: `The notification ${slug}` });
  check.stored(stored.notification.site);
  return stored;
}

/**
 * @param version that it was looked at; null: whatever it is
 * @returns what it was
 * @throws RelayError not-found, changed-meanwhile, or what the check throws
 */
export async function removeNotification(
  db: Db,
  slug: string,
  version: number | null,
  check: SiteCheck,
): Promise<NotificationDescription> {
  const stored = await existing(db, slug, check);
  if (version !== null && version !== stored.version)
    throw new RelayError("changed-meanwhile", { what: `The notification ${slug}`, version: stored.version });
  await keepVersion(db, "notification", slug, null);
  await db.query("delete from notification where slug = $1", [slug]);
  return stored.notification;
}

/** @throws RelayError not-found, or what the check throws */
export async function saveNotificationSecret(db: Db, slug: string, sealed: Buffer, check: SiteCheck): Promise<void> {
  await existing(db, slug, check);
  await db.query("update notification set secret = $2 where slug = $1", [slug, sealed]);
}

/** One that was taken away meanwhile is left out. */
export async function addToLog(
  db: Db,
  all: readonly { id: string; notification: string; event: object }[],
): Promise<void> {
  await db.query(
    `insert into notification_delivery (id, notification, event)
     select d.id, d.notification, d.event from json_to_recordset($1) as d(id uuid, notification text, event json)
       join notification on notification.slug = d.notification`,
    [storableJson(all)],
  );
}

/** Those that are due, the oldest first. */
export async function findDue(db: Db, limit: number): Promise<NotificationDelivery[]> {
  const { rows } = await db.query<NotificationDelivery>(
    `select ${COLUMNS} from notification_delivery where next_at <= now() order by next_at, id limit $1`,
    [limit],
  );
  return rows;
}

/** @param waitMs until the next try; null: there is none. @param trouble null: it was taken */
export async function settleDelivery(db: Db, id: string, trouble: string | null, waitMs: number | null): Promise<void> {
  await db.query(
    `update notification_delivery set tries = tries + 1, trouble = $2, next_at = now() + $3::float8 * interval '1 millisecond',
       delivered_at = case when $2::text is null then now() end where id = $1`,
    [id, trouble, waitMs],
  );
}

/** The newest of a notification. */
export async function findLogOf(db: Db, notification: string, limit: number): Promise<NotificationDelivery[]> {
  const { rows } = await db.query<NotificationDelivery>(
    `select ${COLUMNS} from notification_delivery where notification = $1 order by id desc limit $2`,
    [notification, limit],
  );
  return rows;
}

/** The log is kept for a week. */
export async function forgetLog(db: Db): Promise<void> {
  await db.query("delete from notification_delivery where next_at is null and made_at < now() - interval '7 days'");
}
