/** Lock-outs in the journal: taken, released, and those that hold. */
import type { Lockout } from "@bold-relay/core";
import pg from "pg";
import { timestamp } from "../platform/clock.ts";
import type { Db } from "./pool.ts";

/** What is held: a channel, or every channel of a device. */
export type LockoutTarget = { readonly channelId: number } | { readonly deviceId: number };

export type LockoutRecord = Lockout & LockoutTarget;

/** @returns false when this target is held already */
export async function saveLockout(db: Db, record: LockoutRecord, epoch: number): Promise<boolean> {
  const channelId = "channelId" in record ? record.channelId : null;
  const deviceId = "deviceId" in record ? record.deviceId : null;
  try {
    await db.query(
      `insert into lockout (id, channel_id, device_id, holder, holder_id, reason, since)
       select $1, $2, $3, $4, $5, $6, $7 from hold_lease($8)`,
      [record.id, channelId, deviceId, record.holder, record.holderId, record.reason, timestamp(record.since), epoch],
    );
    return true;
  } catch (error) {
    // 23505: unique_violation (PostgreSQL documentation, appendix A)
    if (error instanceof pg.DatabaseError && error.code === "23505") return false;
    throw error;
  }
}

/** @returns false when it was released already */
export async function releaseLockout(
  db: Db,
  id: string,
  by: string,
  reason: string | null,
  epoch: number,
): Promise<boolean> {
  const { rowCount } = await db.query(
    `update lockout set released_at = now(), released_by = $2, release_reason = $3 from hold_lease($4)
     where id = $1 and released_at is null`,
    [id, by, reason, epoch],
  );
  return rowCount === 1;
}

export async function findActiveLockouts(db: Db): Promise<LockoutRecord[]> {
  const { rows } = await db.query(
    `select id, channel_id, device_id, holder, holder_id as "holderId", reason, extract(epoch from since)::float8 * 1000 as since
     from lockout where released_at is null`,
  );
  return rows.map(({ channel_id, device_id, ...lockout }) => ({
    ...lockout,
    wholeDevice: device_id !== null,
    ...(channel_id === null ? { deviceId: device_id } : { channelId: channel_id }),
  }));
}
