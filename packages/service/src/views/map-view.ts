/** The map as it is sent: drawing, table, findings. */
import type { MapFindingView, MapReachPageView, MapReachView, MapUseView, MapView } from "@bold-relay/api";
import {
  type ChannelEntry,
  catchName,
  DAY_MS,
  drawMap,
  type ElementGroup,
  type MapCatch,
  type MapSelection,
  mapFindings,
  type ReachLink,
  type RelayMap,
} from "@bold-relay/core";
import { stringify } from "csv-stringify/sync";
import type { FoundUse } from "../store/way-use.ts";

/** Of a page; more of them nobody reads. */
const MOST_ROWS = 500;
/** Of one row; how many more there are is said. */
const MOST_ASKERS = 20;
const MOST_CHANNELS = 50;

/** How many days uses are counted for: those of a channel, and those after which a route counts as unused. */
export const USE_DAYS = 30;
export const UNUSED_DAYS = 90;

export function mapView(map: RelayMap, of: ElementGroup | null, selection: MapSelection, hidden: number): MapView {
  const { columns, lines } = drawMap(map, selection);
  const plain = (elements: (typeof columns)["askers"]) =>
    elements.map(({ id, kind, name, note, count }) => ({ id, kind, name, note, count }));
  return {
    of: of && { ...of, count: 1 },
    columns: {
      askers: plain(columns.askers),
      catches: plain(columns.catches),
      targets: plain(columns.targets),
      channels: plain(columns.channels),
    },
    lines: lines.map(({ from, to, weight }) => ({ from, to, weight })),
    hiddenInlets: hidden,
  };
}

export interface ReachPage {
  readonly map: RelayMap;
  readonly of: ElementGroup | null;
  readonly selection: MapSelection;
  readonly uses: readonly FoundUse[];
  /** ms since 1970 */
  readonly countedSince: number;
  readonly hidden: number;
  /** Where one channel was chosen. */
  readonly channel: { readonly entry: ChannelEntry; readonly obstacles: readonly string[] } | null;
}

export function reachPageView(page: ReachPage): MapReachPageView {
  const { map, of, selection, uses, channel, hidden, countedSince } = page;
  const byWay = new Map(uses.map((use) => [use.way, use]));
  if (channel) byWay.set(MEMBERS, membersUse(uses));
  const links = channel ? [...selection.links].sort((one, other) => byUse(one, other, byWay)) : selection.links;
  const rows = links.slice(0, MOST_ROWS).map((link) => rowOf(link, map, byWay));
  const shown = new Set(selection.links.map(({ caught }) => wayOf(caught)));
  const isShown = (way: string) => shown.has(way.startsWith("member:") ? MEMBERS : way);
  const others = uses.filter(({ way, uses: count }) => !isShown(way) && count > 0);
  return {
    of: of && { ...of, count: 1 },
    channel: channel && {
      address: channel.entry.address,
      name: `${channel.entry.name}, ${channel.entry.room.name}`,
      topic: channel.entry.topics.do ?? "",
      obstacles: [...channel.obstacles],
      others: others.map((use) => ({ way: wayText(use.way, map), ...useView(use) })),
    },
    rows,
    moreRows: links.length - rows.length,
    days: USE_DAYS,
    countedSince: new Date(countedSince).toISOString(),
    hiddenInlets: hidden,
  };
}

/** The right of members is one catch for all of them; what each did is counted apart. */
const MEMBERS = "members";

function wayOf({ kind, way }: MapCatch): string | null {
  return kind === "right" ? MEMBERS : way;
}

function membersUse(uses: readonly FoundUse[]): FoundUse {
  const own = uses.filter(({ way }) => way.startsWith("member:"));
  const newest = own.reduce<FoundUse | null>((one, other) => (one && one.lastAt > other.lastAt ? one : other), null);
  const count = own.reduce((sum, { uses: each }) => sum + each, 0);
  return { way: MEMBERS, uses: count, lastAt: newest?.lastAt ?? 0, lastBy: newest?.lastBy ?? "" };
}

/** What was used comes first, then what is meant for few channels. */
function byUse(one: ReachLink, other: ReachLink, uses: ReadonlyMap<string, FoundUse>): number {
  const lastAt = ({ caught }: ReachLink) => uses.get(wayOf(caught) ?? "")?.lastAt ?? 0;
  return lastAt(other) - lastAt(one) || one.reach.target.channels.size - other.reach.target.channels.size;
}

function rowOf(
  { caught, reach, askers, channels }: ReachLink,
  map: RelayMap,
  uses: ReadonlyMap<string, FoundUse>,
): MapReachView {
  const { id, kind, note, inlet, paused } = caught;
  const use = uses.get(wayOf(caught) ?? "");
  const { target, action } = reach;
  return {
    askers: askers.slice(0, MOST_ASKERS).map((one) => ({
      id: one.id,
      name: one.name,
      note: one.note,
      anybody: one.anybody,
    })),
    moreAskers: Math.max(0, askers.length - MOST_ASKERS),
    caught: { id, kind, name: catchName(caught, map), note, inlet, paused },
    target: { id: target.id, kind: target.kind, name: target.name },
    action,
    channels: channels.slice(0, MOST_CHANNELS).map(channelOf),
    moreChannels: Math.max(0, channels.length - MOST_CHANNELS),
    used: caught.way === null && !use ? null : useView(use),
  };
}

function channelOf({ address, name, room }: ChannelEntry): { address: string; name: string } {
  return { address, name: `${name}, ${room.name}` };
}

function useView(use: FoundUse | undefined): MapUseView {
  if (!use || use.lastAt === 0) return { count: 0, lastAt: null, lastBy: "" };
  return { count: use.uses, lastAt: new Date(use.lastAt).toISOString(), lastBy: use.lastBy };
}

/** @example wayText("inlet:hall-chat#12ab…", map) // → "a route of Hall chat that is not there any more" */
function wayText(way: string, map: RelayMap): string {
  const [kind, rest = ""] = [way.slice(0, way.indexOf(":")), way.slice(way.indexOf(":") + 1)];
  if (kind === "rule") return `rule ${rest}`;
  // It may be there and name another channel: that of an interlock, say.
  const caught = map.catches.find((one) => one.way === way);
  if (caught) return catchName(caught, map);
  const [slug = "", hash] = rest.split("#");
  const inlet = map.inlets.get(slug);
  if (!inlet) return `inlet ${slug}`;
  return hash === undefined ? inlet.name : `a route of ${inlet.name} that is not there any more`;
}

/** Channels × catches; a table of more is no help to anybody. */
export const MOST_TABLE_ROWS = 100_000;

export function tableRows({ links }: MapSelection): number {
  return links.reduce((sum, { channels }) => sum + channels.length, 0);
}

const COLUMNS = ["asked by", "caught by", "what it catches", "target", "action", "channel", "name", "topic"];

export function reachTable(map: RelayMap, { links }: MapSelection): string {
  const rows = links.flatMap(({ caught, reach, askers, channels }) => {
    const by = askers.map(({ name, note }) => (note === "" ? name : `${name} (${note})`)).join("; ");
    const how = [by, catchName(caught, map), caught.note, reach.target.name, reach.action ?? "whatever is asked"];
    return channels.map(({ address, name, room, topics }) => [...how, address, `${name}, ${room.name}`, topics.do]);
  });
  // A name that somebody gave must not become a formula in somebody's spreadsheet.
  return stringify([COLUMNS, ...rows], { escape_formulas: true });
}

export function findingViews(
  map: RelayMap,
  inlets: Parameters<typeof mapFindings>[1]["inlets"],
  uses: readonly FoundUse[],
  countedSince: number,
  now: number,
): MapFindingView[] {
  const byWay = new Map(uses.map(({ way, uses: count, lastAt }) => [way, { count, lastAt }]));
  const countedMs = now - countedSince;
  const counted =
    countedMs >= UNUSED_DAYS * DAY_MS
      ? `in ${UNUSED_DAYS} days`
      : `since ${new Date(countedSince).toISOString().slice(0, 10)}, when counting began`;
  return mapFindings(map, { inlets, uses: byWay, counted, countedMs }).map((finding) => ({ ...finding }));
}
