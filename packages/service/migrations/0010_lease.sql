-- Several instances may run beside each other, and one of them holds the lanes: the broker link, what is in flight and
-- every decision. Who that is stands here. An instance that stood still for too long (a stopped process, a machine that
-- swapped) may believe that it holds them long after another took over: whatever it writes then must not be kept.
create table lease (
  name text primary key,
  -- Rises with every change of hands: a writer proves with it that it still holds the lease.
  epoch bigint not null default 0,
  holder text,
  -- Where other instances reach the holder: an http:// address.
  address text,
  since timestamptz,
  until timestamptz not null default '-infinity'
);
insert into lease (name) values ('lanes');

-- Called in every statement that only the holder may write. Its own query sees what was committed a moment ago, which
-- the statement around it does not; the row stays shared until that statement's transaction is over, so nobody can take
-- the lease between this look and the commit, and read the journal without what is being written.
create function hold_lease(claimed bigint) returns boolean language plpgsql volatile as $$
begin
  perform from lease where name = 'lanes' and epoch = claimed for share;
  if not found then
    raise exception 'another instance has taken over the lanes' using errcode = 'BL001';
  end if;
  return true;
end
$$;
