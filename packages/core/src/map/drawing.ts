/** A selection as a drawing in four columns. What does not fit is put together, the finest level first that does. */
import type { RelayMap } from "./element.ts";
import { askerLevels, catchLevels, channelLevels, type ElementGroup, type Levels, targetLevels } from "./group.ts";
import type { MapSelection, ReachLink } from "./selection.ts";

export const MAP_COLUMNS = ["askers", "catches", "targets", "channels"] as const;
export type MapColumn = (typeof MAP_COLUMNS)[number];

export interface DrawnElement extends ElementGroup {
  /** How many elements it stands for. */
  readonly count: number;
}

/** How many elements of the one side are joined with the other. */
export interface DrawnLine {
  readonly from: string;
  readonly to: string;
  readonly weight: number;
}

export interface MapDrawing {
  readonly columns: Readonly<Record<MapColumn, readonly DrawnElement[]>>;
  readonly lines: readonly DrawnLine[];
}

/** More of them in a column cannot be read. */
export const MOST_DRAWN = 24;

/** What a column has of one element: its levels, from the element itself to all of its kind. */
class Column {
  private readonly levels = new Map<string, Levels>();
  private depth = 0;

  add(levels: Levels): string {
    const id = levels[0]?.id ?? "";
    if (!this.levels.has(id)) this.levels.set(id, levels);
    return id;
  }

  /** Chooses the finest level at which at most so many are left. */
  fold(most: number): void {
    const deepest = Math.max(0, ...[...this.levels.values()].map((levels) => levels.length - 1));
    while (this.depth < deepest && this.drawnIds().size > most) this.depth += 1;
  }

  drawnOf(id: string): ElementGroup {
    const levels = this.levels.get(id) ?? [];
    return levels[Math.min(this.depth, levels.length - 1)] as ElementGroup;
  }

  drawn(): DrawnElement[] {
    const counts = new Map<string, { group: ElementGroup; count: number }>();
    for (const id of this.levels.keys()) {
      const group = this.drawnOf(id);
      const known = counts.get(group.id) ?? { group, count: 0 };
      counts.set(group.id, { group, count: known.count + 1 });
    }
    return [...counts.values()].map(({ group, count }) => ({ ...group, count }));
  }

  private drawnIds(): Set<string> {
    return new Set([...this.levels.keys()].map((id) => this.drawnOf(id).id));
  }
}

/** @param most in a column */
export function drawMap(map: RelayMap, { links, idle }: MapSelection, most = MOST_DRAWN): MapDrawing {
  const columns = { askers: new Column(), catches: new Column(), targets: new Column(), channels: new Column() };
  for (const { caught, reach, askers, channels } of links) {
    for (const asker of askers) columns.askers.add(askerLevels(asker, map));
    columns.catches.add(catchLevels(caught, map));
    if (reach.target.kind !== "channel") columns.targets.add(targetLevels(reach.target));
    for (const channel of channels) columns.channels.add(channelLevels(channel));
  }
  for (const caught of idle) {
    for (const asker of caught.askers) columns.askers.add(askerLevels(asker, map));
    columns.catches.add(catchLevels(caught, map));
  }
  for (const column of Object.values(columns)) column.fold(most);
  const lines = linesOf(links, columns);
  const drawn = {
    askers: columns.askers.drawn(),
    catches: columns.catches.drawn(),
    targets: columns.targets.drawn(),
    channels: columns.channels.drawn(),
  };
  for (const { askers, id } of idle)
    for (const asker of askers) addLine(lines, columns.askers.drawnOf(asker.id).id, columns.catches.drawnOf(id).id);
  return { columns: ordered(drawn, [...lines.values()]), lines: [...lines.values()] };
}

type Grow = { -readonly [Name in keyof DrawnLine]: DrawnLine[Name] };

function addLine(lines: Map<string, Grow>, from: string, to: string, weight = 1): void {
  const key = `${from}\n${to}`;
  const known = lines.get(key);
  if (known) known.weight += weight;
  else lines.set(key, { from, to, weight });
}

function linesOf(links: readonly ReachLink[], columns: Record<MapColumn, Column>): Map<string, Grow> {
  const lines = new Map<string, Grow>();
  const joined = new Set<string>();
  /** The same elements may be joined by several links: they count once. */
  const once = (key: string) => !joined.has(key) && joined.add(key) !== undefined;
  for (const { caught, reach, askers, channels } of links) {
    const { target } = reach;
    const caughtAs = columns.catches.drawnOf(caught.id).id;
    for (const asker of askers)
      if (once(`${asker.id}\n${caught.id}`)) addLine(lines, columns.askers.drawnOf(asker.id).id, caughtAs);
    const isDrawn = target.kind !== "channel";
    const from = isDrawn ? columns.targets.drawnOf(target.id).id : caughtAs;
    if (isDrawn && once(`${caught.id}\n${target.id}`)) addLine(lines, caughtAs, from);
    if (isDrawn && !once(target.id)) continue;
    for (const { address } of channels) addLine(lines, from, columns.channels.drawnOf(`channel:${address}`).id);
  }
  return lines;
}

/** Each column but the last in the order of what it leads to, so that lines cross seldom. */
function ordered(
  drawn: Record<MapColumn, DrawnElement[]>,
  lines: readonly DrawnLine[],
): Record<MapColumn, readonly DrawnElement[]> {
  const next = new Map<string, string[]>();
  for (const { from, to } of lines) {
    const known = next.get(from);
    if (known) known.push(to);
    else next.set(from, [to]);
  }
  const place = new Map<string, number>();
  const put = (elements: readonly DrawnElement[]) => {
    for (const [index, { id }] of elements.entries()) place.set(id, (index + 1) / (elements.length + 1));
    return elements;
  };
  const middle = ({ id }: DrawnElement) => {
    const places = (next.get(id) ?? []).flatMap((to) => place.get(to) ?? []);
    return places.length === 0 ? 1 : places.reduce((sum, one) => sum + one, 0) / places.length;
  };
  const sorted = (elements: readonly DrawnElement[]) => {
    const middles = new Map(elements.map((element) => [element.id, middle(element)]));
    return put([...elements].sort((one, other) => (middles.get(one.id) ?? 0) - (middles.get(other.id) ?? 0)));
  };
  const channels = put(drawn.channels);
  const targets = sorted(drawn.targets);
  const catches = sorted(drawn.catches);
  return { askers: sorted(drawn.askers), catches, targets, channels };
}
