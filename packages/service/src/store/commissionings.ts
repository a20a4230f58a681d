/** Records of commissioning: written as the steps go, so that a half-done one survives whatever happens. */
import type { CommissioningStep } from "@bold-relay/core";
import { timestamp } from "../platform/clock.ts";
import type { Db } from "./pool.ts";
import { storableJson } from "./storable.ts";

export interface CommissioningRecord {
  readonly id: string;
  readonly deviceId: number;
  readonly startedBy: string;
  /** ms since 1970. */
  readonly startedAt: number;
  /** ms since 1970; null: not every step is over. */
  readonly finishedAt: number | null;
  readonly steps: readonly CommissioningStep[];
}

export async function saveCommissioning(db: Db, record: CommissioningRecord): Promise<void> {
  const { id, deviceId, startedBy, startedAt, finishedAt, steps } = record;
  const finished = finishedAt === null ? null : timestamp(finishedAt);
  await db.query(
    `insert into commissioning (id, device_id, started_by, started_at, finished_at, steps) values ($1, $2, $3, $4, $5, $6)
     on conflict (id) do update set finished_at = excluded.finished_at, steps = excluded.steps`,
    [id, deviceId, startedBy, timestamp(startedAt), finished, storableJson(steps)],
  );
}

/** Of a device the newest, newest first. */
export async function findCommissionings(db: Db, deviceId: number, limit: number): Promise<CommissioningRecord[]> {
  const { rows } = await db.query(
    `select id, device_id as "deviceId", started_by as "startedBy", steps,
       extract(epoch from started_at)::float8 * 1000 as "startedAt",
       extract(epoch from finished_at)::float8 * 1000 as "finishedAt"
     from commissioning where device_id = $1 order by id desc limit $2`,
    [deviceId, limit],
  );
  return rows;
}

/** By the device's number in the journal: when it was last proven from the first step to the last, and with how many failures. */
export async function findLastCommissionings(db: Db): Promise<Map<number, { finishedAt: number; failed: number }>> {
  const { rows } = await db.query(
    `select distinct on (device_id) device_id, extract(epoch from finished_at)::float8 * 1000 as "finishedAt",
       (select count(*)::int from jsonb_array_elements(steps) s where s->>'state' = 'failed') as failed
     from commissioning where finished_at is not null order by device_id, id desc`,
  );
  return new Map(rows.map(({ device_id, ...proof }) => [device_id, proof]));
}
