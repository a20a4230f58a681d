-- An owner may take off a second factor that its member has lost. The member is told until they have a new one.
alter table member
  add column second_factor_removed_at timestamptz,
  -- Who did it, as they were called then.
  add column second_factor_removed_by text;
