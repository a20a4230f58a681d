/** A site's rows as the description that people wrote: read in one statement, by whatever reads or copies sites. */
import type { ChannelDescription, DeviceDescription, RoomDescription, SiteDescription } from "@bold-relay/core";

/** What stands in `site.bundles`: all of a site that has no table of its own. */
export interface SiteBundles extends Required<Pick<SiteDescription, "groups" | "scenes" | "interlocks">> {
  readonly timeZone?: string;
  /** Every room in its order, also one that has no devices. Sites that were saved by 0.2.0 and before have none of it. */
  readonly rooms?: readonly Pick<RoomDescription, "slug" | "name">[];
}

/** SQL: rooms, devices and channels of the site `s`, as JSON. */
export const SITE_JSON = `json_build_object('slug', s.slug, 'name', s.name, 'rooms', coalesce((
       select json_agg(json_build_object('slug', r.slug, 'name', r.name, 'devices', r.devices) order by r.first, r.id)
       from (
         select r.id, r.slug, r.name, min(d.first) as first,
           coalesce(json_agg(json_build_object('slug', d.slug, 'name', d.name, 'profile', d.profile, 'topics', d.topics, 'channels', d.channels)
             order by d.first) filter (where d.slug is not null), '[]') as devices
         from room r left join (
           select d.room_id, d.slug, d.name, d.topics::jsonb, p.slug as profile, min(c.number) as first,
             json_agg(jsonb_build_object('slug', c.slug, 'name', c.name, 'kind', c.kind)
               || case when c.delivery = '{}' then '{}' else jsonb_build_object('delivery', c.delivery) end
               || c.wiring order by c.number) as channels
           from device d join profile p on p.id = d.profile_id
             join channel c on c.device_id = d.id and c.removed_at is null
           group by d.id, p.slug
         ) d on d.room_id = r.id
         where r.site_id = s.id group by r.id
       ) r where r.first is not null), '[]'))`;

/** The description that rows hold. Fields of a kind that has nothing in it are left out. */
export function describedSite({ site, bundles }: { site: SiteDescription; bundles: SiteBundles }): SiteDescription {
  const { rooms, timeZone, ...lists } = bundles;
  const { slug, name, ...stored } = inOrder(site);
  const known = new Map(stored.rooms.map((room) => [room.slug, room]));
  const all =
    rooms?.map((room) => ({ slug: room.slug, name: room.name, devices: known.get(room.slug)?.devices ?? [] })) ??
    stored.rooms;
  return { slug, name, ...(timeZone === undefined ? {} : { timeZone }), rooms: all, ...withoutEmpty(lists) };
}

/** The database has its own order of fields; people begin with what a thing is called. */
function inOrder({ slug, name, rooms }: SiteDescription): SiteDescription {
  const channel = ({ slug, name, kind, ...more }: ChannelDescription) => ({ slug, name, kind, ...more });
  const devices = (all: readonly DeviceDescription[]) =>
    all.map(({ channels, topics, ...device }) => {
      return { ...device, ...(topics ? { topics } : {}), channels: channels.map(channel) };
    });
  return { slug, name, rooms: rooms.map((room) => ({ ...room, devices: devices(room.devices) })) };
}

/** What a description leaves out when there is none of it. */
function withoutEmpty(lists: Pick<SiteBundles, "groups" | "scenes" | "interlocks">) {
  return Object.fromEntries(Object.entries(lists).filter(([, all]) => all.length > 0));
}
