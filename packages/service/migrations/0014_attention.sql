-- What people said of a matter that needs attention. The matters themselves are made from what is known, and go when they are
-- cured; so does their row.
create table attention (
  kind text not null,
  subject text not null,
  first_seen timestamptz not null default now(),
  taken_by text,
  note text,
  muted_until timestamptz,
  -- It is not shown while its mark is this one.
  closed_mark text,
  primary key (kind, subject)
);
