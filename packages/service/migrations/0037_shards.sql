-- Sites are spread over shards, and each shard is a lease of its own: several instances can lead at the same time, each for its sites.

-- The number of a shard, from 0. How many there are is how many leases there are.
alter table lease add column shard smallint not null default 0;
alter table lease add constraint lease_one_for_each_shard unique (shard);
alter table site add column shard smallint not null default 0;
-- The database was restored from a backup, and nobody has led this shard on it so far: what is open in it ends without being sent.
alter table lease add column restored boolean not null default false;

-- An epoch names its shard: it is the rest of a division by 1024. So no two leases ever have the same epoch, and whatever shows one
-- shows of which shard it is. It is given here, for an instance of the version before counts by one.
--
-- The lock is that of the shard, so that a change of hands waits for the statements of its own leader only.
create or replace function wait_for_leader() returns trigger language plpgsql as $$
begin
  perform pg_advisory_xact_lock(418000, 1 + (old.epoch % 1024)::int);
  new.epoch := (old.epoch / 1024 + 1) * 1024 + new.shard;
  return new;
end
$$;

-- Beyond every epoch of a shard that was taken away, by 1024: a shard of its number that is added later begins there. Whoever slept since
-- must not take a new lease for its own.
create sequence lease_floor;

create or replace function hold_lease(claimed bigint) returns boolean language plpgsql volatile as $$
begin
  perform pg_advisory_xact_lock_shared(418000, 1 + (claimed % 1024)::int);
  perform from lease where epoch = claimed;
  if not found then
    raise exception 'another instance has taken over the lanes' using errcode = 'BL001';
  end if;
  return true;
end
$$;
create unique index lease_by_epoch on lease (epoch);
