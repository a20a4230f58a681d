/**
 * What "everything" means, in sixty phrases, written from what people mean by them. One site; `wh`, `fm`, `vo`, `vc` and `pg` are
 * asked by name only. Written short: `off wp wt` switches those two off · `which …` asks how far it reaches · `nothing` does nothing.
 */
import {
  buildSnapshot,
  type ChannelDescription,
  type ChannelId,
  type ChannelRecord,
  type Profile,
  type SiteDescription,
} from "../../src/index.ts";

const channel = (
  slug: string,
  name: string,
  kind: ChannelDescription["kind"],
  more: Partial<ChannelDescription> = {},
) => ({
  slug,
  name,
  kind,
  ...more,
});

export function everythingSite(slug: string, profile: string): SiteDescription {
  const room = (room: string, name: string, channels: readonly ChannelDescription[]) => ({
    slug: room,
    name,
    devices: [{ slug: room, name: `board in ${name}`, profile, channels }],
  });
  return {
    slug,
    name: "Alder Row",
    rooms: [
      room("wren", "Wren", [
        channel("wp", "Porch lantern", "light"),
        channel("wd", "Dining dimmer", "dimmer"),
        channel("wt", "Towel rail", "relay"),
        channel("wh", "Water heater", "relay", { inAll: false }),
      ]),
      room("finch", "Finch", [
        channel("fp", "Porch lantern", "light"),
        channel("fs", "Skylight", "position"),
        channel("fm", "Misting pump", "relay", { delivery: { timesItself: true, holdForMs: 5_000 } }),
      ]),
      room("plover", "Plover", [
        channel("pl", "Hall light", "light"),
        channel("pg", "Drive gate", "pulse", { delivery: { targetStage: "acknowledged" } }),
        channel("vo", "Vent, open", "relay"),
        channel("vc", "Vent, close", "relay"),
      ]),
    ],
    interlocks: [{ name: "vent", channels: ["plover/vo", "plover/vc"], meets: "refuse" }],
  };
}

export const EVERYTHING: readonly (readonly [phrase: string, expected: string])[] = [
  // Nothing limits it: all of the site, but what is asked by name only.
  ["everything off", "off wp wd wt fp pl"],
  ["turn everything off", "off wp wd wt fp pl"],
  ["all off", "off wp wd wt fp pl"],
  ["switch everything on please", "on wp wd wt fp pl"],
  ["everything off except the towel rail", "off wp wd fp pl"],
  ["everything off but not the hall light", "off wp wd wt fp"],
  ["everything off except towel rail and hall light", "off wp wd fp"],
  ["everything off except the lights", "off wt"],
  // A place anywhere limits the whole.
  ["everything in wren off", "off wp wd wt"],
  ["everything off in wren", "off wp wd wt"],
  ["in wren everything off", "off wp wd wt"],
  ["in wren, everything off", "off wp wd wt"],
  ["wren: everything off", "off wp wd wt"],
  ["everything off, in wren", "off wp wd wt"],
  ["wren everything off", "off wp wd wt"],
  ["everything in wren and finch off", "off wp wd wt fp"],
  ["everything off in finch and plover", "off fp pl"],
  ["everything in wren off except the towel rail", "off wp wd"],
  ["everything off except the towel rail, in wren", "which wren *"],
  ["in wren everything off except the towel rail", "off wp wd"],
  ["in wren, everything except the towel rail off", "off wp wd"],
  ["everything off in wren but not the dining dimmer", "off wp wt"],
  ["everything except the porch lantern off in finch", "nothing"],
  ["everything except the towel rail in wren off", "which wren *"],
  // A place that is only part of a name, or belongs to another wish: nobody knows how far it reaches.
  ["everything off except the porch lantern in wren", "which wren *"],
  ["everything off except the porch lantern, wren", "which wren *"],
  ["everything off except wren porch lantern", "which wren *"],
  ["all off except the porch lantern in finch", "which finch *"],
  ["everything off, and in wren the towel rail on", "which wren *"],
  ["everything off and the porch lantern in wren on", "which wren *"],
  ["all lights off except the porch lantern in wren", "which wren *"],
  ["everything off in wren except the lights", "off wt"],
  ["all lights on and everything in finch off", "which finch *"],
  // A place that is excepted is left out, never switched.
  ["everything in wren off except in finch", "off wp wd wt"],
  ["everything off except in finch", "off wp wd wt pl"],
  ["everything off except finch", "off wp wd wt pl"],
  ["everything except finch off", "off wp wd wt pl"],
  ["everything except in finch off", "off wp wd wt pl"],
  ["everything off except in wren and finch", "off pl"],
  ["everything off except in wren and in finch", "off pl"],
  ["everything off except wren, finch", "off pl"],
  ["everything off but not finch", "off wp wd wt pl"],
  ["all lights off except in wren", "off fp pl"],
  ["everything off except the towel rail and finch", "off wp wd pl"],
  ["everything off except the lights and wren", "nothing"],
  ["everything off except wren and the hall light", "off fp"],
  ["everything at alder row off except everything in finch", "off wp wd wt pl"],
  ["everything except the towel rail and everything in finch off", "off wp wd pl"],
  ["everything at alder row off except the lights in finch", "off wp wd wt pl"],
  ["everything off except the lights in finch", "which finch *"],
  ["everything off except the lights, in wren", "off wt"],
  ["everything off except the hall light, in finch", "nothing"],
  ["everything in alder row off except alder row", "nothing"],
  // A wish of its own after an exception is no exception.
  ["everything in wren off except the towel rail and everything in finch on", "off wp wd + on fp"],
  ["everything in wren off except the towel rail and all lights in finch on", "off wp wd + on fp"],
  ["everything in wren off except finch and the hall light on", "off wp wd wt + on pl"],
  // Named fully there is nothing to ask.
  ["everything in wren off and the hall light on", "off wp wd wt + on pl"],
  ["everything in finch off and everything in plover off", "off fp + off pl"],
  ["everything at alder row off", "off wp wd wt fp pl"],
  ["everything off at alder row except the towel rail", "off wp wd fp pl"],
  // By kind.
  ["all lights off", "off wp wd fp pl"],
  ["all lights in wren off", "off wp wd"],
  ["lights off in wren", "off wp wd"],
  ["all lights off in wren except the porch lantern", "off wd"],
  ["all lights in wren and plover on", "on wp wd pl"],
  ["all dimmers to half", "level wd"],
  ["all blinds close", "close fs"],
  ["all relays off", "off wt fm vo vc"],
  ["all relays in wren off", "off wt"],
  ["all lights to 30 %", "level wd"],
  // What is asked by name only is had by its name.
  ["water heater off", "off wh"],
  ["everything off and the water heater off", "off wp wd wt fp pl + off wh"],
  ["drive gate", "nothing"],
  ["pulse the drive gate", "pulse pg"],
  ["vent open off", "off vo"],
  ["everything in plover on", "on pl"],
  ["open everything", "open fs"],
  ["close everything in finch", "close fs"],
  // Not done at all.
  ["everything", "nothing"],
  ["everything off unless it rains", "nothing"],
  ["dont turn everything off", "nothing"],
  ["everything of in wren", "nothing"],
  ["off in wren", "nothing"],
  ["wren off", "nothing"],
];

/** Of phrases that name a room alone, or misspell: no hint may switch more than one thing. */
export const HINTED = ["wren off", "off in wren", "porhc off", "towel rai in wren off", "hall ligth on"];

const profile: Profile = {
  slug: "p",
  name: "P",
  codec: "json",
  topics: { do: "{site}/{device}/{channel}/do", done: null, is: "{site}/{device}/{channel}/is", here: null },
  delivery: {},
};

/** The same as the service would have it. */
export function everythingSnapshot() {
  const site = everythingSite("alder-row", "p");
  let number = 0;
  const records = site.rooms.flatMap((room, place) =>
    room.devices.flatMap((device) =>
      device.channels.map(({ slug, name, kind, delivery = {}, ...wiring }): ChannelRecord => {
        number += 1;
        const at = { site: { slug: site.slug, name: site.name }, room: { slug: room.slug, name: room.name } };
        const on = { id: place, slug: device.slug, name: device.name };
        return { id: number as ChannelId, number, slug, name, kind, delivery, wiring, ...at, device: on, profile };
      }),
    ),
  );
  return buildSnapshot(records, [site]);
}
