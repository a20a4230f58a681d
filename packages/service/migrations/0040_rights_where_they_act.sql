-- A right of a member counts until the moment at which what they ask for is stored: the verb accept looks at it once more.

-- Whether a member may still switch a channel. Null for the channel: whether they are still there, and signed in.
create function may_still_request(requesting int, shown_session bytea, channel int) returns boolean language sql stable as $$
  select exists (
    select from member m where m.id = requesting
      and (shown_session is null
        or exists (select from session s where s.token_sha256 = shown_session and s.expires_at > now()))
      and (channel is null or m.role in ('user', 'operator', 'engineer', 'owner')
        or exists (select from channel c join device d on d.id = c.device_id join membership r on r.site_id = d.site_id
          where c.id = channel and r.member_id = m.id and r.role in ('user', 'operator', 'engineer')))
  )
$$;

-- As in 0033. Returns null also when the member may not any more.
create function accept_one(
  claimed bigint, request_id uuid, asked_ms float8, requester text, member_id int, inlet text, asker text, key_id int, target text,
  action text, value float8, value_text text, for_ms int, said jsonb, traceparent text,
  command_id uuid, channel_id int, to_value text, urgent boolean, command_for_ms int, clear_within_ms int, blocked text,
  shown_session bytea
) returns bigint language plpgsql volatile as $$
#variable_conflict use_variable
declare
  place bigint;
  asked timestamptz := to_timestamp(asked_ms / 1000);
begin
  perform hold_lease(claimed);
  if member_id is not null and not may_still_request(member_id, shown_session, channel_id) then
    return null;
  end if;
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

-- What an instance of an earlier version calls: it does not say which session was shown.
create or replace function accept_one(
  claimed bigint, request_id uuid, asked_ms float8, requester text, member_id int, inlet text, asker text, key_id int, target text,
  action text, value float8, value_text text, for_ms int, said jsonb, traceparent text,
  command_id uuid, channel_id int, to_value text, urgent boolean, command_for_ms int, clear_within_ms int, blocked text
) returns bigint language sql volatile as $$
  select accept_one(claimed, request_id, asked_ms, requester, member_id, inlet, asker, key_id, target, action, value, value_text, for_ms,
    said, traceparent, command_id, channel_id, to_value, urgent, command_for_ms, clear_within_ms, blocked, null)
$$;
