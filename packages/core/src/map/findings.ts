/** What on the map is unused, cannot act, or is open to more than its owner may think: each with the reason and what to do. */
import type { InletDescription } from "../inlet/model.ts";
import { shadowedRoutes } from "../inlet/router.ts";
import { channelTargetId, type MapCatch, type RelayMap } from "./element.ts";
import { caughtTwice } from "./inlet-risks.ts";

export const MAP_FINDING_KINDS = [
  "open-to-anyone",
  "caught-twice",
  "no-expiry",
  "names-nothing",
  "shadowed",
  "unused",
  "unreachable",
] as const;
export type MapFindingKind = (typeof MAP_FINDING_KINDS)[number];

/** What each is called, as the beginning of a line. */
export const mapFindingWords: Readonly<Record<MapFindingKind, string>> = {
  "open-to-anyone": "Open to anyone",
  "caught-twice": "Caught twice",
  "no-expiry": "No expiry",
  "names-nothing": "Names nothing",
  shadowed: "Never acts",
  unused: "Unused",
  unreachable: "Unreachable",
};

export interface MapFinding {
  readonly kind: MapFindingKind;
  /** The id of the element that it is about. */
  readonly element: string;
  /** Its name in words: “Route 2 of Hall chat”. */
  readonly name: string;
  /** null: of the whole team. */
  readonly site: string | null;
  readonly text: string;
}

/** How a way was used, in the time that is counted. */
export interface WayUse {
  readonly count: number;
  /** ms since 1970; null: never, as far as is known. */
  readonly lastAt: number | null;
}

export interface FindingsInput {
  readonly inlets: readonly InletDescription[];
  /** By way; what is left out was never used. */
  readonly uses: ReadonlyMap<string, WayUse>;
  /** Since when uses are counted, in words: “in 90 days”, “since 30 November, when counting began”. */
  readonly counted: string;
  /** For how long, ms. */
  readonly countedMs: number;
}

/** Before uses have been counted for so long nothing is called unused, ms. */
const UNUSED_LEAST_MS = 7 * 24 * 3_600_000;

/** In the order of `MAP_FINDING_KINDS`: what is dangerous first. */
export function mapFindings(map: RelayMap, { inlets, uses, counted, countedMs }: FindingsInput): MapFinding[] {
  const catches = new Map(map.catches.map((caught) => [caught.id, caught]));
  const found = [
    ...map.catches.flatMap((caught) => openFinding(caught, map)),
    ...caughtTwice(inlets).flatMap(({ route: { inlet, place }, other }) => {
      const caught = catches.get(`route:${inlet.slug}/${place}`);
      const text = `Route ${other.place} of ${other.inlet.name} catches the same (${other.filter}): both send commands.`;
      return caught ? [finding("caught-twice", caught, map, text)] : [];
    }),
    ...expiryFindings(map),
    ...map.lost.map(({ catch: caught, target }) =>
      finding("names-nothing", caught, map, `It names “${target}”, which nothing is called, or several things are.`),
    ),
    ...inlets.flatMap((inlet) => shadowedFindings(inlet, map, catches)),
    ...(countedMs < UNUSED_LEAST_MS ? [] : map.catches.flatMap((caught) => unusedFinding(caught, map, uses, counted))),
    ...unreachable(map),
  ];
  const place = (kind: MapFindingKind) => MAP_FINDING_KINDS.indexOf(kind);
  return found.sort((one, other) => place(one.kind) - place(other.kind));
}

/** @example catchName({ kind: "route", name: "porch", inlet: "hall-chat", … }, map) // → "“porch” of Hall chat" */
export function catchName({ kind, name, inlet, route }: MapCatch, { inlets }: Pick<RelayMap, "inlets">): string {
  const of = inlet === null ? null : (inlets.get(inlet)?.name ?? inlet);
  if (of === null || of === name) return name;
  return kind === "route" && name !== `Route ${route}` ? `Route ${route} “${name}” of ${of}` : `${name} of ${of}`;
}

function finding(kind: MapFindingKind, caught: MapCatch, map: RelayMap, text: string): MapFinding {
  return { kind, element: caught.id, name: catchName(caught, map), site: caught.site, text };
}

function channelsOf(caught: MapCatch): number {
  return new Set(caught.reaches.flatMap(({ target }) => [...target.channels])).size;
}

function channelsText(count: number): string {
  return `${count} ${count === 1 ? "channel" : "channels"}`;
}

function openFinding(caught: MapCatch, map: RelayMap): MapFinding[] {
  const anyone = caught.askers.find(({ anybody }) => anybody);
  const count = channelsOf(caught);
  if (!anyone || count === 0) return [];
  const text = `Any sender in any room can switch ${channelsText(count)}. Name rooms or senders in the inlet.`;
  return [finding("open-to-anyone", caught, map, text)];
}

function expiryFindings(map: RelayMap): MapFinding[] {
  const endless = new Map(
    map.askers.filter(({ expiresAt }) => expiresAt === null).map(({ id }) => [id, new Set<object>()]),
  );
  for (const { askers, reaches } of map.catches) {
    for (const { id } of askers) {
      const reached = endless.get(id);
      if (reached) for (const { target } of reaches) for (const channel of target.channels) reached.add(channel);
    }
  }
  return map.askers.flatMap((asker): MapFinding[] => {
    const { size = 0 } = endless.get(asker.id) ?? {};
    if (size === 0) return [];
    const site = asker.inlet === null ? null : (map.inlets.get(asker.inlet)?.site ?? null);
    const text = `It can switch ${channelsText(size)} and never expires. Replace it by one that does.`;
    return [{ kind: "no-expiry", element: asker.id, name: `${asker.name} ${asker.note}`.trim(), site, text }];
  });
}

type Catches = ReadonlyMap<string, MapCatch>;

function shadowedFindings({ slug, routes = [] }: InletDescription, map: RelayMap, catches: Catches): MapFinding[] {
  return shadowedRoutes(routes).flatMap(({ place, by }) => {
    const caught = catches.get(`route:${slug}/${place}`);
    return caught
      ? [finding("shadowed", caught, map, `Route ${by} catches all that it would. Move or delete one.`)]
      : [];
  });
}

function unusedFinding(caught: MapCatch, map: RelayMap, uses: FindingsInput["uses"], counted: string): MapFinding[] {
  if (caught.kind !== "route" || caught.way === null || (uses.get(caught.way)?.count ?? 0) > 0) return [];
  return [finding("unused", caught, map, `It has caught nothing ${counted}.`)];
}

/** Channels that no member and no inlet can switch. */
function unreachable({ channels, catches }: RelayMap): MapFinding[] {
  const asked = catches.filter(({ kind, askers }) => kind !== "rule" && kind !== "wire" && askers.length > 0);
  const reached = new Set(asked.flatMap(({ reaches }) => reaches.flatMap(({ target }) => [...target.channels])));
  return channels
    .filter((channel) => !reached.has(channel))
    .map(({ address, name, room, site }) => ({
      kind: "unreachable",
      element: channelTargetId(address),
      name: `${name}, ${room.name}`,
      site: site.slug,
      text: "No member and no inlet can switch it. Give somebody a role at the site, or add a route.",
    }));
}
