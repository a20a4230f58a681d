/** What changes when one description of a site takes the place of another, as data: to show, to journal, to guard. */
import type { SiteDescription } from "./model.ts";

export interface SiteChange {
  readonly what: "site" | "room" | "device" | "channel" | "group" | "scene" | "interlock";
  /** "finch/porch" of a channel, the slug of the rest. */
  readonly name: string;
  readonly change: "added" | "removed" | "changed";
  /** Of what changed: field by field, as JSON. */
  readonly fields: readonly { readonly field: string; readonly from: unknown; readonly to: unknown }[];
}

/**
 * @param before null: there is no such site so far
 * @example compareSites(a, b) // → [{ what: "channel", name: "finch/porch", change: "changed", fields: [{ field: "name", from: "Porch", to: "Lantern" }] }]
 */
export function compareSites(before: SiteDescription | null, after: SiteDescription): SiteChange[] {
  const old = before ? partsOf(before) : new Map<string, Part>();
  const now = partsOf(after);
  const changes: SiteChange[] = [];
  for (const [key, part] of now) {
    const was = old.get(key);
    if (!was) changes.push({ what: part.what, name: part.name, change: "added", fields: [] });
    else if (JSON.stringify(was.facts) !== JSON.stringify(part.facts))
      changes.push({ what: part.what, name: part.name, change: "changed", fields: differences(was.facts, part.facts) });
  }
  for (const [key, part] of old)
    if (!now.has(key)) changes.push({ what: part.what, name: part.name, change: "removed", fields: [] });
  return changes;
}

interface Part {
  readonly what: SiteChange["what"];
  readonly name: string;
  readonly facts: Readonly<Record<string, unknown>>;
}

function partsOf(site: SiteDescription): Map<string, Part> {
  const parts: Part[] = [{ what: "site", name: site.slug, facts: { name: site.name, timeZone: site.timeZone } }];
  site.rooms.forEach((room, place) => {
    parts.push({ what: "room", name: room.slug, facts: { name: room.name, place: place + 1 } });
    for (const device of room.devices) {
      const { slug, name, profile, topics } = device;
      parts.push({ what: "device", name: slug, facts: { name, profile, topics, room: room.slug } });
      device.channels.forEach(({ slug: channel, ...facts }, index) => {
        parts.push({ what: "channel", name: `${slug}/${channel}`, facts: { place: index + 1, ...facts } });
      });
    }
  });
  for (const { slug, ...facts } of site.groups ?? []) parts.push({ what: "group", name: slug, facts });
  for (const { slug, ...facts } of site.scenes ?? []) parts.push({ what: "scene", name: slug, facts });
  for (const { name, ...facts } of site.interlocks ?? []) parts.push({ what: "interlock", name, facts });
  return new Map(parts.map((part) => [`${part.what} ${part.name}`, { ...part, facts: sorted(part.facts) }]));
}

function differences(before: Part["facts"], after: Part["facts"]): SiteChange["fields"] {
  const fields = [...new Set([...Object.keys(before), ...Object.keys(after)])].sort();
  return fields
    .filter((field) => JSON.stringify(before[field]) !== JSON.stringify(after[field]))
    .map((field) => ({ field, from: before[field] ?? null, to: after[field] ?? null }));
}

/** The same whatever the order in which fields were written, and without those that say nothing. */
function sorted(facts: Part["facts"]): Part["facts"] {
  const said = Object.entries(facts).filter(([, value]) => value !== undefined && JSON.stringify(value) !== "{}");
  return Object.fromEntries(
    said.sort(([one], [other]) => (one < other ? -1 : 1)).map(([name, value]) => [name, tidy(value)]),
  );
}

function tidy(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(tidy);
  return typeof value === "object" && value !== null ? sorted(value as Part["facts"]) : value;
}
