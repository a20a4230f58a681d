-- The journal's first shape. The model (site to channel) is small and read whole; requests and commands are many.
-- An open command is one small row; when it ends, its whole story is appended to `command` and the row goes:
-- appending costs PostgreSQL less than half of updating in place.

create table profile (
  id int generated always as identity primary key,
  slug text not null unique,
  name text not null,
  body jsonb not null
);

create table site (
  id int generated always as identity primary key,
  slug text not null unique,
  name text not null
);

create table room (
  id int generated always as identity primary key,
  site_id int not null references site,
  slug text not null,
  name text not null,
  unique (site_id, slug)
);

create table device (
  id int generated always as identity primary key,
  site_id int not null references site,
  room_id int not null references room,
  profile_id int not null references profile,
  slug text not null,
  name text not null,
  unique (site_id, slug)
);

-- A channel's row stays for good: history points to it. One that was taken out of its site is marked, not deleted.
create table channel (
  id int generated always as identity primary key,
  device_id int not null references device,
  slug text not null,
  name text not null,
  kind text not null,
  number int not null,
  delivery jsonb not null default '{}',
  removed_at timestamptz,
  unique (device_id, slug)
);

create table member (
  id int generated always as identity primary key,
  name text not null,
  password_hash text not null,
  role text not null check (role in ('owner')),
  created_at timestamptz not null default now()
);
create unique index member_by_name on member (lower(name));

create table session (
  token_sha256 bytea primary key,
  member_id int not null references member on delete cascade,
  created_at timestamptz not null default now(),
  expires_at timestamptz not null
);

create table inlet (
  id int generated always as identity primary key,
  slug text not null unique,
  name text not null,
  kind text not null,
  site_id int references site,
  created_at timestamptz not null default now()
);

-- 256 random bits are shown once and kept as SHA-256 only. A key belongs to a member or to an inlet.
create table api_key (
  id int generated always as identity primary key,
  name text not null,
  token_sha256 bytea not null unique,
  member_id int references member on delete cascade,
  inlet_id int references inlet on delete cascade,
  created_at timestamptz not null default now(),
  revoked_at timestamptz,
  check ((member_id is null) <> (inlet_id is null))
);

-- One row an arrival, never changed. outcome and refusal are set only where it ended on arrival.
create table request (
  id uuid primary key,
  asked_at timestamptz not null,
  inlet text not null,
  asker text not null,
  key_id int,
  target text not null,
  action text not null,
  outcome text,
  refusal jsonb
);

create table open_command (
  id uuid primary key,
  seq bigint generated always as identity,
  request_id uuid not null,
  channel_id int not null references channel,
  to_value text not null,
  asked_at timestamptz not null,
  -- How far it got, if it has been open for long enough to be worth a write.
  progress jsonb
) with (fillfactor = 70);

-- The whole story of a command, appended when it ends. Durations are ms after asked_at.
create table command (
  id uuid not null,
  request_id uuid not null,
  channel_id int not null references channel,
  seq bigint not null,
  to_value text not null,
  aim text not null,
  stage text not null,
  ended text not null,
  reason text,
  attempts smallint not null,
  asked_at timestamptz not null,
  hops jsonb not null,
  primary key (request_id, id)
);
create index command_by_channel on command (channel_id, seq desc);

create table state_change (
  id uuid primary key,
  channel_id int not null references channel,
  at timestamptz not null,
  from_value text,
  to_value text not null,
  cause text not null,
  command_id uuid
);
create index state_change_by_channel on state_change (channel_id, id desc);
