-- Who may do what, where it happens. Roles say what they may: a reader sees, a user switches too (the viewer of before). A key is
-- narrowed by role, sites and time, never beyond the key that made it. A requester is a member by id, an inlet or a rule of ours.

alter table member drop constraint member_role_check;
alter table membership drop constraint membership_role_check;
alter table api_key drop constraint api_key_most_check;
update member set role = 'user' where role = 'viewer';
update membership set role = 'user' where role = 'viewer';
update api_key set most = 'user' where most = 'viewer';
alter table member add constraint member_role_check
  check (role in ('reader', 'user', 'operator', 'engineer', 'owner'));
alter table membership add constraint membership_role_check
  check (role in ('reader', 'user', 'operator', 'engineer'));
alter table api_key add constraint api_key_most_check
  check (most in ('reader', 'user', 'operator', 'engineer', 'owner'));
update inlet set body = regexp_replace(body::text, '(:\s*)"viewer"', '\1"user"', 'g')::json where body::text like '%"viewer"%';

alter table api_key
  -- Slugs of the only sites that it reaches; null: those of its holder.
  add column sites text[],
  -- The key that made it: revoking that one revokes this one too. null: a session did.
  add column made_by int references api_key;

-- Who asked: a member by id, an inlet that claims a sender, or a rule. The name is what is shown, and proves nothing.
alter table request
  add column requester text not null default 'inlet',
  add column member_id int;
update request set requester = 'member', member_id = (select m.id from member m where m.name = request.asker)
  where inlet in ('board', 'command line', 'commissioning') and not exists (select from inlet i where i.slug = request.inlet);
update request set requester = 'rule' where inlet in ('timed off', 'auto-off', 'end of hold', 'power-up')
  and asker = 'Bold Relay' and not exists (select from inlet i where i.slug = request.inlet);

create index request_by_member on request (member_id, id desc) where member_id is not null;

alter table lockout add column holder_id int;
update lockout set holder_id = (select m.id from member m where m.name = lockout.holder) where released_at is null;

alter table audit
  -- Whose word it was: the member's id, and the key that was shown. Null for the set-up program and for who was not known.
  add column member_id int,
  add column key_id int,
  add column address text;

-- What an inlet was called is never given to another: callers and history would take the new one for the old one.
create table retired_inlet (
  slug text primary key,
  -- Whose it was; null: of the whole team.
  site text,
  retired_at timestamptz not null default now()
);

-- Links for people, each with an end of its own that may come sooner.
create table inlet_link (
  id uuid primary key,
  inlet_id int not null references inlet on delete cascade,
  phrase text not null,
  made_by text not null,
  made_at timestamptz not null default now(),
  until timestamptz not null,
  revoked_at timestamptz
);
create index inlet_link_by_inlet on inlet_link (inlet_id, made_at desc);
