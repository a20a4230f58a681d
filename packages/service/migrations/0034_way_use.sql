-- How often each way of asking was used: by member, route, inlet or rule (see core/src/map/way.ts), in all and by the channel that it reached.
-- For the map: what a button reaches, what opened the gate last, which routes never caught anything.
create table way_use (
  way text not null,
  -- A channel that got a command; 0: requests, whatever became of them
  channel_id int not null,
  -- In UTC
  day date not null,
  uses int not null,
  last_at timestamptz not null,
  -- The name that the requester gave
  last_by text not null,
  primary key (way, channel_id, day)
);
create index way_use_of_channel on way_use (channel_id, day);

-- Since when uses are counted: of the time before nobody knows.
insert into way_use (way, channel_id, day, uses, last_at, last_by) values ('', 0, (now() at time zone 'utc')::date, 0, now(), '');
