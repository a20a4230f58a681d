/**
 * Everything that publishes or subscribes at the broker, as the database has it: devices, topic inlets, notifications, the service itself.
 * Whoever saves one of them checks its topics against the others, and stores them while nobody else does: first come, first served.
 */
import { firstLevel, snapshotSteps, type TopicPicture, topicListener, topicTeller } from "@bold-relay/core";
import { Link } from "../broker/link.ts";
import { inPieces } from "../platform/in-pieces.ts";
import { findInletRows } from "../store/inlets.ts";
import { findChannelsBeside, findSites } from "../store/model.ts";
import { findModelStamp } from "../store/model-versions.ts";
import { findNotifications } from "../store/notifications.ts";
import type { Db } from "../store/pool.ts";

/** The service's own topics, as filters. @param clientId of its link */
export function reservedTopics(clientId: string): readonly string[] {
  return [Link.markerTopicOf(clientId)];
}

/**
 * @param topics or filters: devices that have none of them, and none that begins like them, may be left out
 * @param besides a site whose own devices are left out
 */
export async function storedTopics(
  db: Db,
  reserved: readonly string[],
  topics: readonly string[],
  besides = "",
): Promise<TopicPicture> {
  // One after the other: the connection may be that of a transaction, which does one thing at a time.
  const channels = await findChannelsBeside(db, besides, [...new Set(topics.map(firstLevel))]);
  const sites = await findSites(db);
  const inlets = await findInletRows(db);
  const notifications = await findNotifications(db);
  return {
    snapshot: await inPieces(snapshotSteps(channels, sites)),
    listeners: inlets.flatMap(({ inlet }) => topicListener(inlet)),
    tellers: notifications.flatMap(({ notification }) => topicTeller(notification)),
    reserved,
  };
}

/** From here to the end of the transaction nobody else stores topics. */
export async function lockTopics(db: Db): Promise<void> {
  await db.query("select pg_advisory_xact_lock(hashtext('bold-relay topics'))");
}

/** Topics were saved by somebody else since they were compared: nothing was stored. */
export class TopicsChanged extends Error {}

/**
 * In the transaction that stores topics which were compared before it.
 *
 * @param stamp as it was before that, see `findTopicStamp`
 * @throws TopicsChanged
 */
export async function requireTopicsRest(db: Db, stamp: string): Promise<void> {
  await lockTopics(db);
  if ((await findTopicStamp(db)) !== stamp) throw new TopicsChanged("topics were saved meanwhile");
}

/** Another one with every change of anything that has topics. */
export async function findTopicStamp(db: Db): Promise<string> {
  const { rows } = await db.query<{ stamp: string }>(
    `select coalesce(md5(string_agg(one, ',' order by one)), '') as stamp from (
       select 'inlet ' || slug || ' ' || version as one from inlet
       union all select 'notification ' || slug || ' ' || version from notification) as listed`,
  );
  return `${await findModelStamp(db)} ${rows[0]?.stamp}`;
}
