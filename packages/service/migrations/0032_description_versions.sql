-- What a site, a profile, an inlet or a notification was described as, version by version: to compare, and to go back.
-- The newest 50 of each are kept. A description that was saved before this table came is copied here when it is changed next.
create table description_version (
  kind text not null check (kind in ('site', 'profile', 'inlet', 'notification')),
  slug text not null,
  version int not null,
  -- null: from before there were versions.
  saved_at timestamptz,
  -- The name of who saved it, as it was then; null: from before there were versions.
  saved_by text,
  -- As stored, without secrets except the hash of a PIN. Not jsonb: people see the order in which they wrote.
  body json not null,
  primary key (kind, slug, version)
);
