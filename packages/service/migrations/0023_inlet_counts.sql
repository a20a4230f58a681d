-- What came in at each inlet, hour by hour: arrivals that asked for nothing leave no request behind, and counts must outlive restarts
-- and edits of the inlet.

create table inlet_hour (
  inlet text not null,
  hour timestamptz not null,
  arrivals int not null default 0,
  asked int not null default 0,
  answered int not null default 0,
  not_understood int not null default 0,
  refused int not null default 0,
  unknown_senders int not null default 0,
  last_at timestamptz not null,
  primary key (inlet, hour)
);

-- What is on record so far: one arrival a request that kept what came, or came without words.
insert into inlet_hour (inlet, hour, arrivals, asked, not_understood, refused, last_at)
select inlet, date_trunc('hour', asked_at), count(*), count(*) filter (where outcome is null),
  count(*) filter (where outcome = 'unmatched'), count(*) filter (where outcome = 'refused'), max(asked_at)
from request where id >= uuid_at(now() - interval '8 days') group by 1, 2;
