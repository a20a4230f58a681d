-- A request's place in a chain of calls: the caller's trace, what the arrival was word for word, and what was said back.
alter table request add column traceparent text;

-- Arrivals of an inlet, newest first: they are tried again against changed routes. Web requests have no words, and pay nothing.
create index request_by_inlet_said on request (inlet, id desc) where said is not null;

create table reply (
  request_id uuid not null,
  at timestamptz not null default now(),
  -- answer, post, typed
  how text not null,
  said text not null,
  taken boolean not null,
  why text
) partition by range (request_id);
create index reply_of_request on reply (request_id);
create table reply_odd partition of reply default;
