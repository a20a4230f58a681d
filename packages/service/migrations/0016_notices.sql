-- What outside services are told of, and the log of telling them: each is tried until it is taken, or for some hours.
create table notice (
  slug text primary key,
  body json not null,
  version int not null default 1,
  secret bytea
);

create table notice_delivery (
  id uuid primary key,
  notice text not null references notice on delete cascade,
  made_at timestamptz not null default now(),
  event json not null,
  tries int not null default 0,
  -- null: it has ended.
  next_at timestamptz default now(),
  delivered_at timestamptz,
  trouble text
);
create index notice_delivery_due on notice_delivery (next_at) where next_at is not null;
create index notice_delivery_by_notice on notice_delivery (notice, id desc);
