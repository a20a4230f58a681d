-- Lock-out: a named person's hold on a channel or on a whole device. It survives everything until it is released,
-- and every one that ever was is kept, with who released it and why.

create table lockout (
  id uuid primary key,
  channel_id int references channel,
  device_id int references device,
  holder text not null,
  reason text,
  since timestamptz not null,
  released_at timestamptz,
  released_by text,
  release_reason text,
  check ((channel_id is null) <> (device_id is null))
);
create unique index lockout_of_channel on lockout (channel_id) where released_at is null;
create unique index lockout_of_device on lockout (device_id) where released_at is null;
