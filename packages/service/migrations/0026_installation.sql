-- What the instances of one installation know and nobody else does: by this they know each other.
create table installation (
  one boolean primary key default true check (one),
  secret bytea not null
);
insert into installation (secret)
values (sha256(convert_to(gen_random_uuid()::text || gen_random_uuid()::text || gen_random_uuid()::text, 'UTF8')));
