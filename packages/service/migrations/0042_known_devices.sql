-- Browsers in which a member has signed in before: guesses from elsewhere do not slow them down.

create table member_device (
  id int generated always as identity primary key,
  token_sha256 bytea not null,
  member_id int not null references member on delete cascade,
  at timestamptz not null default now(),
  -- Several people may share a browser.
  unique (token_sha256, member_id)
);
create index member_device_by_member on member_device (member_id);
