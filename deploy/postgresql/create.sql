-- The database of Bold Relay and the role that the service signs in with: it owns this one database and may do nothing else.
-- Run as a superuser, with the password in the environment and in no argument (psql 15 or newer):
--   BOLD_RELAY_DATABASE_PASSWORD=… psql -v ON_ERROR_STOP=1 -f deploy/postgresql/create.sql postgres
\if :{?name}
\else
  \set name bold_relay
\endif
\getenv password BOLD_RELAY_DATABASE_PASSWORD
-- One at a time: roles are the whole cluster's. It is let go of with the connection.
select pg_advisory_lock(721604118) \g /dev/null
select 'create role bold_relay login nosuperuser nocreatedb nocreaterole noinherit noreplication nobypassrls'
where not exists (select from pg_roles where rolname = 'bold_relay') \gexec
alter role bold_relay password :'password';
create database :"name" owner bold_relay encoding 'UTF8' template template0;
revoke all on database :"name" from public;
\connect :name
revoke all on schema public from public;
alter schema public owner to bold_relay;
