-- Who asked, by which inlet and for what, each different text once an hour. What people search for is looked for here first, among
-- some thousand texts, instead of in every request of a busy day: who is not there is not there at once, and the rest is looked
-- for only where it can be.
create table asked_words (
  -- By the request's id, as lists are ordered.
  hour timestamptz not null,
  part text not null check (part in ('asker', 'inlet', 'target')),
  words text not null,
  primary key (hour, part, words)
);

-- Words are looked for in the last day only. Long texts are kept in pieces that overlap, for an index holds no long ones.
insert into asked_words (hour, part, words)
select distinct date_trunc('hour', to_timestamp(('x' || substr(replace(id::text, '-', ''), 1, 12))::bit(48)::bigint / 1000.0), 'UTC'),
  said.part, substr(said.words, 1 + 300 * piece, 400)
from request, lateral (values ('asker', asker), ('inlet', inlet), ('target', target)) as said (part, words),
  generate_series(0, greatest(0, (length(said.words) - 101) / 300)) as piece
where id >= uuid_at(now() - interval '2 days');
