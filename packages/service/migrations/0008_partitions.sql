-- History by month: what is old goes by dropping a partition, not by deleting rows. Ids are UUIDv7, so a range of ids is
-- a range of time. What there is so far becomes the first partition.

create function uuid_at(moment timestamptz) returns uuid language sql immutable strict as $$
  select (substr(hex, 1, 8) || '-' || substr(hex, 9, 4) || '-0000-0000-000000000000')::uuid
  from (select lpad(to_hex(floor(extract(epoch from moment) * 1000)::bigint), 12, '0') as hex) h
$$;

alter table request rename to request_before;
alter index request_pkey rename to request_before_pkey;
alter index request_refused rename to request_before_refused;
alter index request_by_asker rename to request_before_by_asker;
create table request (like request_before including defaults, primary key (id)) partition by range (id);
create index request_refused on request (id desc) where outcome is not null;
create index request_by_asker on request (lower(asker), id desc);

alter table command rename to command_before;
alter index command_pkey rename to command_before_pkey;
alter index command_by_channel_request rename to command_before_by_channel_request;
alter index command_stopped rename to command_before_stopped;
alter index command_replaced rename to command_before_replaced;
create table command (
  like command_before including defaults,
  primary key (request_id, id),
  foreign key (channel_id) references channel
) partition by range (request_id);
create index command_by_channel_request on command (channel_id, request_id desc);
create index command_stopped on command (request_id desc) where ended in ('failed', 'unanswered', 'expired');
create index command_replaced on command (request_id desc) where ended in ('superseded', 'overtaken');

alter table state_change rename to state_change_before;
alter index state_change_pkey rename to state_change_before_pkey;
alter index state_change_by_channel rename to state_change_before_by_channel;
alter index state_change_by_hand rename to state_change_before_by_hand;
create table state_change (
  like state_change_before including defaults,
  primary key (id),
  foreign key (channel_id) references channel
) partition by range (id);
create index state_change_by_channel on state_change (channel_id, id desc);
create index state_change_by_hand on state_change (channel_id, id desc) where cause = 'hand';

do $$
declare
  parent text;
begin
  foreach parent in array array['request', 'command', 'state_change'] loop
    execute format(
      'alter table %I attach partition %I for values from (minvalue) to (%L)',
      parent, parent || '_before', uuid_at(date_trunc('month', now(), 'UTC') + interval '1 month'));
    -- Ids of a clock that is far off land here rather than nowhere.
    execute format('create table %I partition of %I default', parent || '_odd', parent);
  end loop;
end $$;
