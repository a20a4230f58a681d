-- Which instances of the service run beside each other: each writes its own row every few seconds, and takes it away when it stops in order.
create table instance (
  name text primary key,
  -- Of the process: a name that two of them use at once is seen by it.
  run uuid not null,
  address text not null,
  version text not null,
  build text,
  started_at timestamptz not null,
  seen_at timestamptz not null,
  -- How far its clock is ahead of the database's, ms
  ahead_ms float8 not null,
  resident_mb int not null,
  -- Share of one core since the beat before
  cpu float8 not null
);
