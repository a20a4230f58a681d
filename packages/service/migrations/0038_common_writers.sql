-- One statement writes what several shards of an instance have to write, and proves the lease of each.

-- In the order of the shards (`inLockOrder` in store/leases.ts): an instance that takes one of them over waits between two such
-- statements, and in another order they could wait for each other.
create function hold_leases(claimed bigint[]) returns boolean language plpgsql volatile as $$
declare
  one bigint;
begin
  foreach one in array claimed loop
    perform pg_advisory_xact_lock_shared(418000, 1 + (one % 1024)::int);
    perform from lease where epoch = one;
    if not found then
      raise exception 'another instance has taken over the lanes' using errcode = 'BL001';
    end if;
  end loop;
  return true;
end
$$;
