-- What several machines need of each other: two brokers with the same users, instances that tell whether they reach the broker and with which
-- secrets key they run, and a leader that can be chosen.

-- A broker that takes over from another one, or is set up anew, must let the same devices in. So what a device shows there is kept,
-- sealed with the installation's secrets key; null: the user was made before, or without such a key, and only its broker knows it.
alter table device_user add column password bytea;
-- A user that was taken back stays in the list of those who must not be at any broker: one of them may be away just then.
alter table device_user add column dropped_at timestamptz;
-- Whether the instance reaches the broker; null: it does not look, for it does not lead and nobody needs to know. A leader that does not
-- gives way to one that does.
alter table instance add column broker_reached boolean;
-- Tells the secrets keys of instances apart: all of them must have the same, or one of them could not read what another has sealed.
alter table instance add column secrets_mark text;
-- Who is to lead next, for a moment: whoever runs the machines hands the lead over. Others do not take it until then.
alter table lease add column wanted text;
alter table lease add column wanted_until timestamptz;
