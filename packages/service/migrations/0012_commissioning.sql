-- How a device was proven, step by step: kept for the handing over, and to compare the next proof with.
create table commissioning (
  id uuid primary key,
  device_id int not null references device,
  started_by text not null,
  started_at timestamptz not null,
  finished_at timestamptz,
  steps jsonb not null
);
create index commissioning_by_device on commissioning (device_id, id desc);
