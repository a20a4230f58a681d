-- Keys make no keys any more. What each may do beside its role, and who created it, stands with it: keys of inlets outlive whoever created them.

alter table api_key
  -- Whether it may export the request log. Until now every key of a member could.
  add column may_export boolean not null default false,
  add column created_by_id int references member on delete set null,
  add column created_by text;

update api_key set may_export = true where member_id is not null;
update api_key set created_by_id = member_id where member_id is not null;
update api_key k set created_by = a.actor, created_by_id = (select m.id from member m where lower(m.name) = lower(a.actor))
  from inlet i, audit a
  where i.id = k.inlet_id and a.action = 'key created' and a.object = k.name || ', of ' || i.slug
    and a.at between k.created_at - interval '5 seconds' and k.created_at + interval '5 seconds';
update api_key k set created_by = m.name from member m where m.id = k.created_by_id and k.created_by is null;

create index api_key_by_creator on api_key (created_by_id) where created_by_id is not null;
