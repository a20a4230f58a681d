-- What an installation must know of itself before anybody has signed in, and after its database was restored.
create table setup_link (
  token_sha256 bytea primary key,
  expires_at timestamptz not null
);
alter table installation add column restored_at timestamptz;
