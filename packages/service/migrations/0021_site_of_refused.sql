-- What ended on arrival has no commands that say whose it is. It belongs to the premises of what it named, else to those that its
-- asker is held to: who looks after them sees what was refused there, and the figures of the premises count it.
alter table request add column site text;

update request set site = site.slug from inlet join site on site.id = inlet.site_id
where inlet.slug = request.inlet and request.outcome is not null;

create index request_refused_at on request (site, id desc) where site is not null;

-- Of what belongs to a device '': the device says it.
alter table figure add column site text not null default '';
alter table figure drop constraint figure_pkey;
alter table figure add primary key (from_at, device_id, site, inlet, what, grade);

update figure set site = site.slug from inlet join site on site.id = inlet.site_id
where inlet.slug = figure.inlet and figure.device_id = 0;
