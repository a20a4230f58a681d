-- Whatever is changed in these tables by hand, no site is left without a shard, and the work that one leader does for all without one.
alter table lease add constraint lease_shard_number check (shard between 0 and 1023);
alter table site add constraint site_shard_exists foreign key (shard) references lease (shard);

create function keep_first_shard() returns trigger language plpgsql as $$
begin
  raise exception 'Shard 0 cannot be deleted: its leader does what one instance does for all.' using errcode = 'BL002';
end
$$;
create trigger keep_first_shard before delete on lease for each row when (old.shard = 0) execute function keep_first_shard();

-- Of a version without shards it stays false: where there are several, such an instance is given none.
alter table instance add column knows_shards boolean not null default false;
