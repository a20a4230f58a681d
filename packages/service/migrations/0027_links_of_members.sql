-- A removed member's links end with them.
alter table inlet_link add column member_id int;
create index inlet_link_by_member on inlet_link (member_id) where revoked_at is null;
