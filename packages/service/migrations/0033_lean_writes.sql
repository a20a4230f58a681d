-- What a quiet system writes for each request, made as cheap as it can be: the proof of the lease without a write, and one request or
-- one ended command in one call, with plans that are made once a connection.

-- The proof took a lock on the row of the lease, and that is a write of its own. A lock that lives in memory does the same: every
-- statement of the leader shares it until its commit, and whoever raises the epoch needs it alone. So nobody can take the lease between
-- the look and the commit, and read the journal without what is being written. The query still sees what was committed a moment ago.
create or replace function hold_lease(claimed bigint) returns boolean language plpgsql volatile as $$
begin
  perform pg_advisory_xact_lock_shared(418000, 1);
  perform from lease where name = 'lanes' and epoch = claimed;
  if not found then
    raise exception 'another instance has taken over the lanes' using errcode = 'BL001';
  end if;
  return true;
end
$$;

-- In a trigger, so that an instance of the version before takes it too.
create function wait_for_leader() returns trigger language plpgsql as $$
begin
  perform pg_advisory_xact_lock(418000, 1);
  return new;
end
$$;
create trigger lease_changes_hands before update on lease
  for each row when (old.epoch is distinct from new.epoch) execute function wait_for_leader();

-- The verb accept for one request with one command, and nothing else: see store/accept-one.ts. Returns the command's place in its lane;
-- null when the key was revoked after it was looked up.
create function accept_one(
  claimed bigint, request_id uuid, asked_ms float8, requester text, member_id int, inlet text, asker text, key_id int, target text,
  action text, value float8, value_text text, for_ms int, said jsonb, traceparent text,
  command_id uuid, channel_id int, to_value text, urgent boolean, command_for_ms int, clear_within_ms int, blocked text
) returns bigint language plpgsql volatile as $$
#variable_conflict use_variable
declare
  place bigint;
  asked timestamptz := to_timestamp(asked_ms / 1000);
begin
  perform hold_lease(claimed);
  if key_id is not null then
    perform from api_key k where k.id = key_id and k.revoked_at is null and (k.expires_at is null or k.expires_at > now());
    if not found then
      return null;
    end if;
  end if;
  insert into request (id, asked_at, requester, member_id, inlet, asker, key_id, target, action, value, value_text, for_ms, said, traceparent)
  values (request_id, asked, requester, member_id, inlet, asker, key_id, target, action, value, value_text, for_ms, said, traceparent);
  insert into open_command (id, request_id, channel_id, to_value, asked_at, urgent, for_ms, clear_within_ms, doom)
  values (command_id, request_id, channel_id, to_value, asked, urgent, command_for_ms, clear_within_ms, blocked)
  returning seq into place;
  return place;
end
$$;

-- The verb settle for one command that has ended: see store/settle-one.ts. It may be repeated.
create function settle_one(
  claimed bigint, command_id uuid, request_id uuid, channel_id int, place bigint, to_value text, target_stage text, stage text,
  ended text, reason text, attempts int, asked_ms float8, hops jsonb, urgent boolean, for_ms int
) returns void language plpgsql volatile as $$
#variable_conflict use_variable
begin
  perform hold_lease(claimed);
  insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, reason, attempts, asked_at, hops, urgent, for_ms)
  values (command_id, request_id, channel_id, place, to_value, target_stage, stage, ended, reason, least(attempts, 32767),
    to_timestamp(asked_ms / 1000), hops, urgent, for_ms)
  on conflict do nothing;
  delete from open_command o where o.id = command_id;
end
$$;
