-- A deadline also says how long it is at most: a clock that was set back while the service was away must not
-- keep a pump running for the difference.

alter table deadline add column for_ms int not null default 86400000;
