-- Members prove who they are: passwords that can be reset, a second factor, passkeys, sessions that can be seen and ended.

alter table member
  -- Sealed; TOTP (RFC 6238).
  add column totp_secret bytea,
  -- null: it has not been confirmed with a first code, and does not count.
  add column totp_since timestamptz,
  -- The time step of the last code that was taken: none is taken twice.
  add column totp_step bigint;

-- Each is good for one sign-in without the second factor.
create table recovery_code (
  code_sha256 bytea primary key,
  member_id int not null references member on delete cascade
);
create index recovery_code_by_member on recovery_code (member_id);

-- Web Authentication (W3C).
create table passkey (
  -- As the authenticator gave it, base64url.
  id text primary key,
  member_id int not null references member on delete cascade,
  name text not null,
  -- Whose pages it is for: a host name.
  rp_id text not null,
  public_key bytea not null,
  counter bigint not null,
  transports text[] not null default '{}',
  created_at timestamptz not null default now(),
  used_at timestamptz
);
create index passkey_by_member on passkey (member_id);

-- One-time links by which a member gives themselves a new password.
create table password_reset (
  token_sha256 bytea primary key,
  member_id int not null references member on delete cascade,
  expires_at timestamptz not null
);
create index password_reset_by_member on password_reset (member_id);

alter table session
  add column id uuid not null default gen_random_uuid(),
  add column seen_at timestamptz not null default now(),
  add column address text,
  -- What the browser calls itself.
  add column agent text,
  -- How the member proved who they are: password, password and code, recovery code, passkey.
  add column proof text not null default 'password';
create index session_by_member on session (member_id);

-- Where members have signed in from: a guesser elsewhere does not slow them down.
create table member_address (
  member_id int not null references member on delete cascade,
  address text not null,
  at timestamptz not null default now(),
  primary key (member_id, address)
);

-- Rules of the team: one row.
create table team_rule (
  one boolean primary key default true check (one),
  -- Members with one of these roles need a second factor.
  second_factor_for text[] not null default '{}'
);
insert into team_rule default values;
