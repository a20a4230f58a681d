/** The power-up that each device last told of, so that the next one is noticed even if nobody listened. */
import type { Db } from "./pool.ts";

/** By the device's number in the journal. */
export async function findBoots(db: Db): Promise<Map<number, string>> {
  const { rows } = await db.query<{ device_id: number; boot: string }>("select device_id, boot from device_boot");
  return new Map(rows.map((row) => [row.device_id, row.boot]));
}

export async function saveBoot(db: Db, deviceId: number, boot: string): Promise<void> {
  await db.query(
    `insert into device_boot (device_id, boot) values ($1, $2)
     on conflict (device_id) do update set boot = excluded.boot, seen_at = now()`,
    [deviceId, boot],
  );
}
