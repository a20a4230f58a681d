/** A device or a channel is checked with its site around it; what is said is what is about it, at its own places. */
import type { DescriptionCheckView } from "@bold-relay/api";
import type { ChannelDescription, DeviceDescription, SiteDescription } from "@bold-relay/core";
import { client } from "../../api/client.ts";

/**
 * @param site its identifier
 * @param path `device`, or `device/channel`
 * @param draft the device or the channel as it is written now; its fields may still be anything
 */
export async function checkPart(site: string, path: string, draft: object): Promise<DescriptionCheckView> {
  const { site: now } = await client.site(site);
  const [device = "", channel] = path.split("/");
  const place = placeOf(now, device, channel);
  const { version, changes, findings, reach } = await client.checkDescription(
    "site",
    withDraft(now, device, channel, draft),
  );
  const own = `devices/${path}`;
  return {
    version,
    changes,
    reach,
    findings: findings.flatMap((one) => {
      if (place !== null && one.at.startsWith(place))
        return [{ ...one, at: one.at.slice(place.length).replace(/^\./, ""), text: one.text.replace(`${place}.`, "") }];
      if (one.at === own) return [{ ...one, at: "" }];
      if (one.at.startsWith(`${own}/`)) return [{ ...one, at: `channels/${one.at.slice(own.length + 1)}` }];
      return one.at.startsWith("inlets/") ? [one] : [];
    }),
  };
}

function withDraft(site: SiteDescription, device: string, channel: string | undefined, draft: object): SiteDescription {
  const inDevice = (one: DeviceDescription): DeviceDescription => {
    if (one.slug !== device) return one;
    if (channel === undefined) return draft as DeviceDescription;
    return {
      ...one,
      channels: one.channels.map((each) => (each.slug === channel ? (draft as ChannelDescription) : each)),
    };
  };
  return { ...site, rooms: site.rooms.map((room) => ({ ...room, devices: room.devices.map(inDevice) })) };
}

function placeOf(site: SiteDescription, device: string, channel: string | undefined): string | null {
  for (const [room, { devices }] of site.rooms.entries()) {
    const at = devices.findIndex((one) => one.slug === device);
    if (at < 0) continue;
    const within = `rooms[${room}].devices[${at}]`;
    if (channel === undefined) return within;
    const index = devices[at]?.channels.findIndex((one) => one.slug === channel) ?? -1;
    return index < 0 ? null : `${within}.channels[${index}]`;
  }
  return null;
}
