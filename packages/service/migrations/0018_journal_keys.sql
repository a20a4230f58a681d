-- The journal's rows no longer refer to their channel by a foreign key. Channels are marked as removed and never deleted, and
-- only the service writes here, from a snapshot of the channels that exist; but each key cost every command a look-up and
-- a lock on the channel's row, twice: a good part of what the journal spends on a command.
do $$
declare
  found record;
begin
  for found in
    select conrelid::regclass as place, conname from pg_constraint
    where contype = 'f' and confrelid = 'channel'::regclass and conparentid = 0
      and conrelid in ('open_command'::regclass, 'command'::regclass, 'state_change'::regclass)
  loop
    execute format('alter table %s drop constraint %I', found.place, found.conname);
  end loop;
end $$;

-- It holds what is open at this moment, and each row lives for milliseconds: dead rows go as soon as there are a few.
alter table open_command set (autovacuum_vacuum_scale_factor = 0, autovacuum_vacuum_threshold = 1000);
