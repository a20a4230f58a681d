/** Which users the service has made at the brokers, for which devices, and what they show there, sealed. */
import type { DeviceAccess } from "@bold-relay/core";
import type { Db } from "./pool.ts";
import { storableJson } from "./storable.ts";

export interface DeviceUser {
  readonly username: string;
  /** site/device */
  readonly device: string;
  /** ms since 1970. */
  readonly madeAt: number;
  /** null: it counts until it is taken back. */
  readonly retiresAt: number | null;
}

export async function findUsers(db: Db): Promise<DeviceUser[]> {
  const { rows } = await db.query<DeviceUser>(
    `select username, device, extract(epoch from made_at)::float8 * 1000 as "madeAt",
       extract(epoch from retires_at)::float8 * 1000 as "retiresAt"
     from device_user where dropped_at is null order by made_at, username`,
  );
  return rows;
}

/** Names are never used twice: a device that still has an old one must not get in by it. Its access must be on record. */
export async function nextUserNumber(db: Db, device: string): Promise<number> {
  const { rows } = await db.query<{ number: number }>(
    "update device_access set users_made = users_made + 1 where device = $1 returning users_made as number",
    [device],
  );
  return rows[0]?.number ?? 1;
}

/** @param password sealed; null: only the broker is to know it */
export async function saveUser(db: Db, username: string, device: string, password: Buffer | null): Promise<void> {
  const values = [username, device, password];
  await db.query("insert into device_user (username, device, password) values ($1, $2, $3)", values);
}

/** Every user of the device but this one ends then, if it does not end before. @param at ms since 1970 */
export async function retireUsers(db: Db, device: string, but: string | null, at: number): Promise<void> {
  await db.query(
    `update device_user set retires_at = least(retires_at, to_timestamp($3::float8 / 1000))
     where device = $1 and username is distinct from $2 and dropped_at is null`,
    [device, but, at],
  );
}

/** It stays in the list of those who must not be at any broker. */
export async function dropUser(db: Db, username: string): Promise<void> {
  await db.query("update device_user set dropped_at = now(), password = null where username = $1", [username]);
}

/** A user as each broker should have it, or should not. */
export interface BrokerUserRecord {
  readonly username: string;
  readonly device: string;
  /** Sealed; null: only the broker at which it was made knows it. */
  readonly password: Buffer | null;
  readonly dropped: boolean;
}

export async function findBrokerUsers(db: Db): Promise<BrokerUserRecord[]> {
  const { rows } = await db.query<BrokerUserRecord>(
    "select username, device, password, dropped_at is not null as dropped from device_user order by username",
  );
  return rows;
}

/** From before there were filters, there are none. */
type StoredAccess = Omit<DeviceAccess, "filters"> & Partial<DeviceAccess>;

const completed = (access: StoredAccess): DeviceAccess => ({ ...access, filters: access.filters ?? [] });

export async function findAllAccess(db: Db): Promise<ReadonlyMap<string, DeviceAccess>> {
  const { rows } = await db.query<{ device: string; access: StoredAccess }>("select device, access from device_access");
  return new Map(rows.map(({ device, access }) => [device, completed(access)]));
}

export async function findAccess(db: Db, device: string): Promise<DeviceAccess | null> {
  const { rows } = await db.query<{ access: StoredAccess }>("select access from device_access where device = $1", [
    device,
  ]);
  return rows[0] ? completed(rows[0].access) : null;
}

export async function saveAccess(db: Db, device: string, access: DeviceAccess): Promise<void> {
  await db.query(
    `insert into device_access (device, access) values ($1, $2)
     on conflict (device) do update set access = excluded.access`,
    [device, storableJson(access)],
  );
}
