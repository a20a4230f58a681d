-- Inlets of every kind: what only some kinds have is their own document. What an arrival said, and how it was read, is kept
-- with the request that it made. Secrets that have to be read back, to check a signature, are sealed.
alter table inlet
  -- json, not jsonb: people see it again as they wrote it.
  add column body json not null default '{}',
  add column version int not null default 1,
  add column secret bytea;

alter table request add column said jsonb;
