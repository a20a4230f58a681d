-- Users that the service has made at the broker for devices. Passwords are the broker's to keep, hashed; here is only who there is.
create table device_user (
  username text primary key,
  -- site/device: a device that is taken out of its site loses its users.
  device text not null,
  made_at timestamptz not null default now(),
  -- From when on it counts no more: another has taken its place.
  retires_at timestamptz
);
create index device_user_by_device on device_user (device);

-- What a device may do at the broker, as it was last set there.
create table device_access (
  device text primary key,
  access json not null,
  -- How many users it has had: a name is never used twice.
  users_made int not null default 0
);
