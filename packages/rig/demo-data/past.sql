-- What was asked in the fortnight before the demo began: made up, the same at every first start but for the dates. Every channel is left off.
create temporary table habit (channel text, inlet text, asker text, hour float8, minutes float8, value text, every int, ms float8);
insert into habit values
  ('alder-row/wren/porch', 'hall-tablet', 'Wren guest book', 16.9, 300, 'on', 1, 9),
  ('alder-row/wren/path', 'hall-tablet', 'Wren guest book', 17.1, 280, 'on', 1, 8),
  ('alder-row/wren/dining', 'cottage-chat', 'ana', 18.4, 130, '60', 2, 8),
  ('alder-row/wren/towel-rail', 'cottage-chat', 'ana', 6.8, 20, 'on', 1, 7),
  ('alder-row/wren/hall', 'board', 'Ines', 16.6, 310, 'on', 1, 9),
  ('alder-row/finch/porch', 'buttons', 'Buttons', 17.0, 290, 'on', 1, 12),
  ('alder-row/finch/landing', 'buttons', 'Buttons', 19.2, 40, 'on', 1, 12),
  ('alder-row/finch/water-heater', 'booking', 'Booking', 14.0, 120, 'on', 3, 13),
  ('alder-row/dunlin/porch', 'booking', 'Booking', 17.0, 300, 'on', 2, 11),
  ('alder-row/dunlin/towel-rail', 'booking', 'Booking', 14.1, 90, 'on', 3, 11),
  ('alder-row/plover/porch', 'hall-tablet', 'Plover guest book', 17.2, 270, 'on', 1, 10),
  ('alder-row/plover/reading', 'hall-tablet', 'Plover guest book', 20.5, 95, 'on', 1, 10),
  ('glasshouse/bay-one/mist', 'assistant', 'Growing plan', 6.5, 2, 'on', 1, 9),
  ('glasshouse/bay-one/mist', 'assistant', 'Growing plan', 11.5, 2, 'on', 1, 9),
  ('glasshouse/bay-one/mist', 'assistant', 'Growing plan', 15.5, 2, 'on', 1, 9),
  ('glasshouse/bay-one/grow', 'assistant', 'Growing plan', 5.0, 780, '80', 1, 10),
  ('glasshouse/far-node/lamp', 'assistant', 'Growing plan', 17.0, 240, 'on', 1, 420),
  ('glasshouse/tank-house/fill', 'assistant', 'Growing plan', 4.0, 25, 'on', 2, 260),
  ('fennel-hall/hall-board/heating', 'caretaker-sheet', 'Caretaker', 7.5, 240, 'on', 1, 14),
  ('fennel-hall/hall-board/circuit-1', 'caretaker-sheet', 'Caretaker', 8.0, 600, 'on', 1, 14),
  ('fennel-hall/hall-board/circuit-2', 'caretaker-sheet', 'Caretaker', 8.1, 600, 'on', 1, 14),
  ('fennel-hall/foyer-board/lights', 'caretaker-sheet', 'Caretaker', 7.9, 620, 'on', 1, 75),
  ('fennel-hall/foyer-board/sign', 'caretaker-sheet', 'Caretaker', 17.5, 260, 'on', 1, 80),
  ('fennel-hall/kitchen-board/fan', 'service-desk', 'Reception', 11.8, 70, 'on', 2, 65),
  ('fennel-hall/cellar-board/pump', 'service-desk', 'Reception', 22.0, 10, 'on', 1, 900);

create function pg_temp.chance(seed text, one_in int) returns boolean language sql immutable as $$ select abs(hashtext(seed)) % one_in = 0 $$;
create function pg_temp.share(seed text) returns float8 language sql immutable as $$ select (abs(hashtext(seed)) % 1000) / 1000.0 $$;

create temporary table past as
select (substr(uuid_at(asked_at)::text, 1, 14) || '7000-8000-' || lpad(to_hex(row_number() over (order by asked_at, channel, value)), 12, '0'))::uuid as id, *
from (
  select h.channel, h.inlet, h.asker, told.value, h.ms, day,
    date_trunc('day', now()) - day * interval '1 day' + interval '1 hour' * (h.hour + pg_temp.share(h.channel || day) / 3)
      + interval '1 minute' * told.after as asked_at
  from habit h cross join generate_series(1, 14) as day
    cross join lateral (values (h.value, 0::float8), (case when h.value ~ '^\d' then '0' else 'off' end, h.minutes)) as told (value, after)
  where day % h.every = 0
) each_time
where asked_at < now() - interval '1 hour';

-- What came from the Board came from a member.
insert into request (id, asked_at, inlet, asker, target, action, value, requester, member_id)
select past.id, asked_at, inlet, asker, channel, case when value ~ '^\d' then 'level' else value end,
  case when value ~ '^\d' then value::float8 end, case when member.id is null then 'inlet' else 'member' end, member.id
from past left join member on inlet = 'board' and member.name = asker;

-- Finch had no power for an evening, the gateway of the far field is slow and sometimes silent, and now and then a command is overtaken.
insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, reason, attempts, asked_at, hops)
select (substr(id::text, 1, 19) || '9' || substr(id::text, 21))::uuid, id, channel_id, nextval('open_command_seq_seq'), value, target_stage, stage, ended,
  case ended when 'unanswered' then 'no-acknowledgement' when 'replaced' then 'replaced-before-sending' when 'failed' then 'device-refused' end,
  case when ended = 'unanswered' then 3 when ended = 'replaced' then 0 else 1 end, asked_at,
  jsonb_path_query_array(jsonb_build_array(
    jsonb_build_object('at', at + 2 + slow, 'kind', 'accepted'),
    case when ended <> 'replaced' then jsonb_build_object('at', at + 3 + slow, 'kind', 'sent', 'attempt', 1, 'wire', wire) end,
    case when ended <> 'replaced' then jsonb_build_object('at', at + 3.6 + slow * 1.3, 'kind', 'published', 'attempt', 1, 'code', 0) end,
    case when stage in ('acknowledged', 'confirmed') then jsonb_build_object('at', at + 3.6 + slow * 1.3 + ms, 'kind', 'acknowledged', 'code', 1) end,
    case when stage = 'confirmed' then jsonb_build_object('at', at + 4 + slow * 1.3 + ms * 1.2, 'kind', 'confirmed') end,
    jsonb_build_object('at', at + 4 + slow * 1.3 + case when ended = 'unanswered' then 6100 else ms * 1.2 end, 'kind', 'ended')
  ), '$[*] ? (@ <> null)')
from (
  select *, case when ended = 'delivered' then target_stage when ended = 'replaced' then 'accepted' else 'published' end as stage,
    jsonb_build_object('topic', channel || '/do', 'payload', json_build_object('id', id, 'to', value)::text) as wire
  from (
    select p.id, p.asked_at, p.channel, p.value, ch.id as channel_id, extract(epoch from p.asked_at)::float8 * 1000 as at,
      p.ms * (0.7 + pg_temp.share(p.id::text)) as ms, pg_temp.share('slow' || p.id) * case when pg_temp.chance('hold' || p.id, 25) then 60 else 4 end as slow,
      case when d.slug = 'dunlin' then 'acknowledged' else 'confirmed' end as target_stage,
      case
        when p.day = 5 and d.slug = 'finch' then 'unanswered'
        when p.day > 1 and d.slug = 'far-node' and pg_temp.chance('far' || p.id, 6) then 'unanswered'
        when p.day > 1 and d.slug = 'cellar-board' and pg_temp.chance('cellar' || p.id, 9) then 'failed'
        when p.day > 1 and p.value = '60' and pg_temp.chance('dim' || p.id, 3) then 'replaced'
        else 'delivered'
      end as ended
    from past p join channel ch on true join device d on d.id = ch.device_id join site s on s.id = d.site_id
    where s.slug || '/' || d.slug || '/' || ch.slug = p.channel
  ) ended
) proven;

insert into request (id, asked_at, inlet, asker, target, action, outcome, site, refusal)
select (substr(uuid_at(asked_at)::text, 1, 14) || '7001-8000-' || lpad(to_hex(day), 12, '0'))::uuid, asked_at, 'cottage-chat', 'ben', said, 'say',
  'not-understood', 'alder-row', json_build_object('code', 'not-understood', 'facts', json_build_object('nearest', json_build_array(meant),
    'why', '“' || word || '” is no name and no word that is known here. Did you mean “' || meant || '”?'))
from generate_series(2, 14) as day
  cross join lateral (select date_trunc('day', now()) - day * interval '1 day' + interval '1 hour' * (18 + 3 * pg_temp.share('ben' || day)) as asked_at) as told
  join (values (0, 'porch lihgt on', 'porch lihgt', 'Porch lantern, Wren'), (1, 'pathlights off', 'pathlights', 'Path lights, Wren'),
    (2, 'heater on please', 'heater', 'Water heater, Finch')) as words (turn, said, word, meant) on day % 3 = turn
where day % 4 <> 1;

-- What devices said: their channels as they were told, and readings that follow the sun.
insert into state_change (id, channel_id, at, from_value, to_value, cause, command_id)
select (substr(uuid_at(asked_at)::text, 1, 14) || '7002' || substr(id::text, 19))::uuid, channel_id, asked_at + interval '20 ms',
  lag(to_value) over (partition by channel_id order by asked_at), to_value, 'command', id
from command where ended = 'delivered' and stage = 'confirmed';

insert into state_change (id, channel_id, at, from_value, to_value, cause)
select (substr(uuid_at(at)::text, 1, 14) || '7003-8000-' || lpad(to_hex(row_number() over (order by at, channel_id)), 12, '0'))::uuid, channel_id, at,
  lag(value) over (partition by channel_id order by at), value, 'unknown'
from (
  -- The same curves as the stand-in's: early morning, afternoon; warmest at half past two.
  select ch.id as channel_id, at, round((least + (most - least) * greatest(0, (1 + cos((extract(epoch from at)::float8 / 3600 - 14.5) * pi() / 12)) / 2
    * (0.8 + 0.2 * pg_temp.share(sensor || date_trunc('day', at))) + (pg_temp.share(sensor || at) - 0.5) / 25))::numeric, 1)::text as value
  from generate_series(date_trunc('hour', now()) - interval '14 days', now() - interval '10 minutes', interval '10 minutes') as at
    cross join (values ('temperature', 14.0, 27.0), ('humidity', 85.0, 45.0), ('light', 0.0, 18000.0)) as curve (sensor, least, most)
    join channel ch on ch.slug = curve.sensor join device d on d.id = ch.device_id and d.slug = 'bay-air'
) readings;

-- As a service that was there would have kept it: the words of the last day are looked for here.
insert into asked_words (hour, part, words)
select distinct date_trunc('hour', asked_at, 'UTC'), said.part, said.words
from request, lateral (values ('asker', asker), ('inlet', inlet), ('target', target)) as said (part, words)
where asked_at >= now() - interval '2 days'
on conflict do nothing;

-- As a service that was there would have counted it: what came in at each inlet.
insert into inlet_hour (inlet, hour, arrivals, asked, not_understood, last_at)
select inlet, date_trunc('hour', asked_at), count(*), count(*) filter (where outcome is null),
  count(*) filter (where outcome = 'not-understood'), max(asked_at)
from request where requester = 'inlet' group by 1, 2
on conflict do nothing;

-- Uses are counted since the fortnight began.
update way_use set last_at = now() - interval '14 days', day = (now() at time zone 'utc')::date - 14 where way = '';
