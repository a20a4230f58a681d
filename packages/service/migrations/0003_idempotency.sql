-- Idempotency-Key: the same asker with the same key gets the request that it made the first time. The claim is
-- made in the statement that keeps the request, so that two calls at once cannot both be sent.

create table idempotency (
  asker text not null,
  key text not null,
  body_sha256 text not null,
  request_id uuid not null,
  at timestamptz not null default now(),
  primary key (asker, key)
);
create index idempotency_by_age on idempotency (at);
