-- Boards as they are wired: a device may have topics of its own. The keys of a profile's JSON templates go out in the order in which
-- they were written: jsonb has an order of its own, json keeps what came.

alter table profile alter column body type json using body::json;
alter table device add column topics json;
