-- Roles: of the whole team in `member.role`, or by site in `membership`. Keys get a limit of what they may do and of
-- how long they live. Every change to who may do what is audited, with before and after.

alter table member drop constraint member_role_check;
alter table member alter column role drop not null;
alter table member add constraint member_role_check check (role in ('viewer', 'operator', 'engineer', 'owner'));

create table membership (
  member_id int not null references member on delete cascade,
  site_id int not null references site,
  role text not null check (role in ('viewer', 'operator', 'engineer')),
  primary key (member_id, site_id)
);

alter table api_key
  -- The most that this key may do, however much its holder may; null: as much as the holder.
  add column most text check (most in ('viewer', 'operator', 'engineer', 'owner')),
  add column expires_at timestamptz;

create table audit (
  id uuid primary key,
  at timestamptz not null default now(),
  actor text not null,
  action text not null,
  object text not null,
  before jsonb,
  after jsonb
);
