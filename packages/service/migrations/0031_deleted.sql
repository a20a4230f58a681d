-- A site or a profile that was deleted: its channels and their history stay, and it comes back as itself when it is added again.
alter table site add column removed_at timestamptz;
alter table profile add column removed_at timestamptz;
