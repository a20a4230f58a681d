/** What elements of the map are put together as, where there are too many to draw: from the element itself to all of its kind. */
import type { ChannelEntry } from "../site/entry.ts";
import { channelTargetId, type MapAsker, type MapCatch, type MapTarget, type RelayMap } from "./element.ts";

export interface ElementGroup {
  readonly id: string;
  readonly kind: string;
  readonly name: string;
  readonly note: string;
}

/** Each level holds what the level before it tells apart. */
export type Levels = readonly ElementGroup[];

const ASKERS = {
  member: "Members",
  key: "Keys of members",
  sender: "Senders",
  holder: "Keys",
  publisher: "Publishers",
  input: "Inputs of devices",
  rule: "Rules of the service",
} as const;

const TARGETS = {
  channel: "Channels",
  group: "Groups",
  scene: "Scenes",
  site: "Whole sites",
  names: "Names with holes",
} as const;

export function askerLevels({ id, kind, name, note, inlet }: MapAsker, { inlets }: RelayMap): Levels {
  const all = { id: `askers:${kind}`, kind, name: ASKERS[kind], note: "" };
  const own = { id, kind, name, note };
  if (inlet === null) return [own, all];
  const at = inlets.get(inlet)?.name ?? inlet;
  return [own, { id: `askers:${kind}@${inlet}`, kind, name: ASKERS[kind], note: `at ${at}` }, all];
}

export function catchLevels({ id, kind, name, note, inlet, site, route }: MapCatch, { inlets }: RelayMap): Levels {
  const at = inlet === null ? "" : (inlets.get(inlet)?.name ?? inlet);
  const place = at === name ? "" : at;
  const from = route === null || name === `Route ${route}` ? place : `${place} ${route}`;
  const own = { id, kind, name, note: [from, note].filter((part) => part !== "").join(": ") };
  if (inlet === null) {
    const all = kind === "right" ? "Members" : kind === "wire" ? "By hand on the wire" : "Rules of the service";
    return [own, { id: `catches:${kind}`, kind, name: all, note: "" }];
  }
  const known = inlets.get(inlet);
  return [
    own,
    { id: `inlet:${inlet}`, kind: "inlet", name: known?.name ?? inlet, note: `inlet, ${known?.kind}` },
    {
      id: `inlets:${site ?? ""}`,
      kind: "inlet",
      name: "Inlets",
      note: site === null ? "of the whole team" : `of ${site}`,
    },
    { id: "inlets", kind: "inlet", name: "Inlets", note: "" },
  ];
}

export function targetLevels({ id, kind, name, address }: MapTarget): Levels {
  const [site] = address?.split("/") ?? [];
  return [
    { id, kind, name, note: kind === "site" || kind === "names" ? "" : kind },
    { id: `targets:${kind}@${site ?? ""}`, kind, name: TARGETS[kind], note: site === undefined ? "" : `of ${site}` },
    { id: `targets:${kind}`, kind, name: TARGETS[kind], note: "" },
  ];
}

export function channelLevels({ address, name, room, site, kind }: ChannelEntry): Levels {
  return [
    { id: channelTargetId(address), kind: "channel", name: `${name}, ${room.name}`, note: kind },
    { id: `room:${site.slug}/${room.slug}`, kind: "room", name: room.name, note: site.name },
    { id: `place:${site.slug}`, kind: "place", name: site.name, note: "" },
    { id: "places", kind: "place", name: "Sites", note: "" },
  ];
}
