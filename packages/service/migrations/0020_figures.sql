-- How well it runs, for months, without reading a month of commands. What was asked in a finished hour, and later in a finished day, is
-- counted once, when nothing of it is open any more: then nothing can come to it. What is not counted so far is read from the journal.
create table figure_span (
  from_at timestamptz primary key,
  to_at timestamptz not null
);

create table figure (
  -- Of a span.
  from_at timestamptz not null,
  -- 0: no device, of requests that ended on arrival.
  device_id int not null,
  inlet text not null,
  -- How a command or request ended, or a hop whose time is counted.
  what text not null,
  -- Of an end the stage that was proven, 0 to 3; of a hop the bucket of its time: 8 times the binary logarithm of its ms.
  grade smallint not null,
  count int not null,
  primary key (from_at, device_id, inlet, what, grade)
);
