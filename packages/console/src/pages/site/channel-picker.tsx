/** Channels of a site, room by room, each ticked or not. */
import type { ChannelDescription, SiteDescription } from "@bold-relay/core";
import { Checkbox, Field, Label } from "@headlessui/react";

interface ChannelPickerProps {
  readonly site: SiteDescription;
  readonly chosen: readonly string[];
  readonly onChange: (paths: readonly string[]) => void;
  /** Left out: every channel. */
  readonly isOffered?: (channel: ChannelDescription) => boolean;
}

export function ChannelPicker({ site, chosen, onChange, isOffered = () => true }: ChannelPickerProps) {
  const pick = (path: string, on: boolean) => onChange(on ? [...chosen, path] : chosen.filter((one) => one !== path));
  return (
    <fieldset className="col-span-2 max-md:col-span-1">
      <legend className="font-plate text-note">Channels</legend>
      <div className="mt-1.5 grid grid-cols-[repeat(auto-fill,minmax(190px,1fr))] gap-x-5 gap-y-3">
        {channelsByRoom(site, isOffered).map(({ room, channels }) => (
          <div key={room.slug}>
            <p className="text-note text-soft">{room.name}</p>
            {channels.map(({ path, name }) => (
              <Field key={path} className="mt-1 flex items-center gap-2">
                <Checkbox
                  checked={chosen.includes(path)}
                  onChange={(on) => pick(path, on)}
                  className="flex size-4 shrink-0 items-center justify-center rounded-[2px] border border-soft bg-enclosure data-checked:border-act data-checked:bg-act"
                >
                  <svg
                    viewBox="0 0 12 12"
                    aria-hidden="true"
                    className={`size-3 stroke-letters ${chosen.includes(path) ? "" : "hidden"}`}
                  >
                    <path d="M2 6.5 5 9l5-6" fill="none" strokeWidth="2" />
                  </svg>
                </Checkbox>
                <Label className="text-note">
                  {name}
                  <span className="sr-only"> in {room.name}</span>
                </Label>
              </Field>
            ))}
          </div>
        ))}
      </div>
    </fieldset>
  );
}

export interface PlacedChannel {
  /** `device/channel` */
  readonly path: string;
  readonly name: string;
  readonly channel: ChannelDescription;
}

export function channelsByRoom(
  { rooms }: SiteDescription,
  isOffered: (channel: ChannelDescription) => boolean = () => true,
): { room: { slug: string; name: string }; channels: PlacedChannel[] }[] {
  return rooms
    .map(({ slug, name, devices }) => ({
      room: { slug, name },
      channels: devices.flatMap((device) =>
        device.channels
          .filter(isOffered)
          .map((channel) => ({ path: `${device.slug}/${channel.slug}`, name: channel.name, channel })),
      ),
    }))
    .filter(({ channels }) => channels.length > 0);
}
