-- Devices described as data while the service runs: how each channel is wired, and versions so that two people who edit
-- the same site notice each other. Requests may carry words where they used to carry numbers only (a colour).

alter table channel add column wiring jsonb not null default '{}';
alter table site add column version int not null default 1;
alter table profile add column version int not null default 1;
alter table request add column value_text text;
