-- The rest of the delivery contract: numbers and times in requests, several commands a request, what is urgent, what
-- waits for interlocked partners, and deadlines that survive everything.

alter table request add column value float8, add column for_ms int;

alter table open_command
  add column urgent boolean not null default false,
  add column for_ms int,
  add column clear_within_ms int,
  -- It is refused already: its end follows at once, also after a crash in between.
  add column doom text;

alter table command add column urgent boolean not null default false, add column for_ms int;

-- Groups, scenes and interlocks: few, and always read whole.
alter table site add column bundles jsonb not null default '{}';

-- When a channel must go off again, whatever happens meanwhile. The row goes in the same transaction that makes the
-- command durable which switches it off.
create table deadline (
  command_id uuid primary key,
  channel_id int not null references channel,
  seq bigint not null,
  due_at timestamptz not null,
  why text not null check (why in ('timed off', 'auto-off', 'end of hold'))
);

-- The power-up that a device last told of: the next one is told from a mere reconnecting by it.
create table device_boot (
  device_id int primary key references device,
  boot text not null,
  seen_at timestamptz not null default now()
);

create index state_change_by_hand on state_change (channel_id, id desc) where cause = 'hand';
