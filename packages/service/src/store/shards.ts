/** The verbs *change the number* of shards and *move* a site to another one. */
import { RelayError } from "@bold-relay/core";
import { requireLease } from "./leases.ts";
import type { Db } from "./pool.ts";

/**
 * From now on there are so many. Sites stay where they are.
 *
 * @param db inside a transaction
 * @throws RelayError bad-request while a site belongs to a shard that would be no more
 */
export async function changeShardCount(db: Db, count: number): Promise<void> {
  await db.query("lock table lease in exclusive mode");
  const { rows } = await db.query<{ slug: string; shard: number }>(
    "select slug, shard from site where shard >= $1 and removed_at is null order by slug limit 1",
    [count],
  );
  const [site] = rows;
  if (site)
    throw new RelayError("bad-request", {
      why: `The site ${site.slug} belongs to shard ${site.shard}. Move it to another shard first`,
    });
  await db.query("update site set shard = 0 where shard >= $1", [count]);
  // No epoch is ever given twice: see the migration.
  await db.query(
    "select setval('lease_floor', greatest(nextval('lease_floor'), (select max(epoch) / 1024 + 1 from lease)))",
  );
  await db.query("delete from lease where shard >= $1", [count]);
  // An instance of a version without shards knows one lease by its name: it must not take it for all that there is.
  await db.query("update lease set name = case when $1 = 1 then 'lanes' else 'shard 0' end where shard = 0", [count]);
  await db.query(
    `insert into lease (name, shard, epoch)
     select 'shard ' || number, number, nextval('lease_floor') * 1024 + number
     from generate_series(1, $1::int - 1) as number
     on conflict (shard) do nothing`,
    [count],
  );
}

/**
 * The lanes of a site belong to another shard from now on.
 *
 * @param epoch proves that the one that moves it leads it
 * @throws RelayError not-found when there is no such shard, or it is just taken away
 */
export async function saveShardOfSite(db: Db, slug: string, to: number, epoch: number): Promise<void> {
  await requireLease(db, epoch);
  const { rowCount } = await db.query("select from lease where shard = $1 for share", [to]);
  if (rowCount !== 1) throw new RelayError("not-found", { what: `Shard ${to}` });
  await db.query("update site set shard = $2 where slug = $1", [slug, to]);
}

/** Resolves once no other transaction is about to move the site. @param db inside a transaction */
export async function awaitShardOfSite(db: Db, slug: string): Promise<void> {
  await db.query("select from site where slug = $1 for update", [slug]);
}
