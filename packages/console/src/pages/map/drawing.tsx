/**
 * The map as a drawing: four columns of elements, joined by lines with a mark at each end, like the stage track. Places are reckoned, not
 * measured: each element takes one line of the same height.
 */
import type { MapElementView, MapView } from "@bold-relay/api";
import type { MapColumn } from "@bold-relay/core";
import { useState } from "react";

interface DrawingProps {
  readonly map: MapView;
  readonly onChoose: (id: string) => void;
}

const COLUMNS: readonly (readonly [MapColumn, string])[] = [
  ["askers", "Requested by"],
  ["catches", "Caught by"],
  ["targets", "Targets"],
  ["channels", "Channels"],
];

/** px */
const ROW = 44;
/** Of the drawing's width, %. */
const WIDTH = 20;
const GAP = (100 - 4 * WIDTH) / 3;

interface Place {
  readonly x: number;
  readonly y: number;
}

export function Drawing({ map, onChoose }: DrawingProps) {
  const [looked, setLooked] = useState<string | null>(null);
  const { columns, lines } = map;
  const { places, lanes, height } = layoutOf(map);
  const near = nearOf(looked, map);
  if (lines.length === 0 && columns.catches.length === 0)
    return <p className="mt-6 max-w-[560px] text-soft">Nothing leads here, and nothing is reached from here.</p>;
  return (
    <section aria-label="Drawing" className="mt-4 print:hidden">
      <p className="text-note text-soft md:hidden">Scroll sideways to see all four columns.</p>
      <div className="overflow-x-auto">
        <div className="min-w-[900px] pb-2">
          <div className="relative h-6">
            {COLUMNS.map(([column, title], index) => (
              <h2
                key={column}
                style={{ left: `${index * (WIDTH + GAP)}%`, width: `${WIDTH}%` }}
                className="absolute border-ink border-b font-medium font-plate text-note text-soft"
              >
                {title}
              </h2>
            ))}
          </div>
          <div className="relative" style={{ height }}>
            <svg
              aria-hidden="true"
              viewBox={`0 0 100 ${height}`}
              preserveAspectRatio="none"
              className="absolute inset-0 h-full w-full"
            >
              {lines.map(({ from, to, weight }) => (
                <path
                  key={`${from} ${to}`}
                  d={lineOf(places.get(from), places.get(to), lanes.get(`${from} ${to}`))}
                  vectorEffect="non-scaling-stroke"
                  strokeWidth={Math.min(4, 1 + Math.log2(weight) / 2)}
                  className={`fill-none ${strokeOf(looked, near, from, to)}`}
                />
              ))}
            </svg>
            {COLUMNS.map(([column]) =>
              columns[column].map((element) => (
                <ElementKey
                  key={element.id}
                  element={element}
                  column={column}
                  place={places.get(element.id) ?? { x: 0, y: 0 }}
                  isFaint={near !== null && !near.has(element.id)}
                  onLook={setLooked}
                  onChoose={onChoose}
                />
              )),
            )}
          </div>
        </div>
      </div>
    </section>
  );
}

interface Layout {
  readonly places: ReadonlyMap<string, Place>;
  /** Of lines that pass the column of targets: how high, px. */
  readonly lanes: ReadonlyMap<string, number>;
  readonly height: number;
}

/** px between two lines that pass */
const LANE = 5;

function layoutOf({ columns, lines }: MapView): Layout {
  const rows = Math.max(1, ...COLUMNS.map(([column]) => columns[column].length)) * ROW;
  const places = new Map<string, Place>();
  for (const [index, [column]] of COLUMNS.entries()) {
    const top = (rows - columns[column].length * ROW) / 2;
    for (const [place, { id }] of columns[column].entries())
      places.set(id, { x: index * (WIDTH + GAP), y: top + place * ROW + ROW / 2 });
  }
  // What names a channel itself has no target between: its line goes over or under that column, whichever is nearer.
  const reached = new Set(columns.channels.map(({ id }) => id));
  const direct = lines.filter(({ from, to }) => reached.has(to) && columns.catches.some(({ id }) => id === from));
  const middle = ({ from, to }: (typeof lines)[number]) => ((places.get(from)?.y ?? 0) + (places.get(to)?.y ?? 0)) / 2;
  const half = columns.targets.length === 0 ? [] : direct;
  const over = half.filter((line) => middle(line) < rows / 2).sort((one, other) => middle(one) - middle(other));
  const under = half.filter((line) => middle(line) >= rows / 2).sort((one, other) => middle(other) - middle(one));
  const targets = columns.targets.length * ROW;
  const top = Math.max(0, (over.length + 1) * LANE - (rows - targets) / 2);
  const bottom = Math.max(0, (under.length + 1) * LANE - (rows - targets) / 2);
  const first = top + (rows - targets) / 2;
  const lanes = new Map([
    ...over.map(({ from, to }, index) => [`${from} ${to}`, first - (index + 1) * LANE] as const),
    ...under.map(({ from, to }, index) => [`${from} ${to}`, first + targets + (index + 1) * LANE] as const),
  ]);
  const moved = new Map([...places].map(([id, { x, y }]) => [id, { x, y: y + top }]));
  return { places: moved, lanes, height: rows + top + bottom };
}

/** From the right edge of the one to the left edge of the other. @param lane where it passes the column of targets */
function lineOf(from: Place | undefined, to: Place | undefined, lane: number | undefined): string {
  if (!from || !to) return "";
  const [start, end] = [from.x + WIDTH, to.x];
  if (lane === undefined) {
    const middle = (start + end) / 2;
    return `M${start} ${from.y} C${middle} ${from.y} ${middle} ${to.y} ${end} ${to.y}`;
  }
  const [before, after] = [start + GAP, end - GAP];
  const [into, outOf] = [start + GAP / 2, end - GAP / 2];
  return `M${start} ${from.y} C${into} ${from.y} ${into} ${lane} ${before} ${lane} L${after} ${lane} C${outOf} ${lane} ${outOf} ${to.y} ${end} ${to.y}`;
}

function strokeOf(looked: string | null, near: ReadonlySet<string> | null, from: string, to: string): string {
  if (looked === null || near === null) return "stroke-soft";
  return near.has(from) && near.has(to) ? "stroke-act" : "stroke-hairline";
}

/** What leads to an element and what it leads to, itself with it; null: nothing is looked at. */
function nearOf(id: string | null, { lines }: MapView): Set<string> | null {
  if (id === null) return null;
  const near = new Set([id]);
  const follow = (side: "from" | "to", other: "from" | "to") => {
    const seen = new Set([id]);
    for (let size = 0; size < seen.size; ) {
      size = seen.size;
      for (const line of lines) if (seen.has(line[side])) seen.add(line[other]);
    }
    for (const one of seen) near.add(one);
  };
  follow("from", "to");
  follow("to", "from");
  return near;
}

interface ElementKeyProps {
  readonly element: MapElementView;
  readonly column: MapColumn;
  readonly place: Place;
  readonly isFaint: boolean;
  readonly onLook: (id: string | null) => void;
  readonly onChoose: (id: string) => void;
}

function ElementKey({ element, column, place, isFaint, onLook, onChoose }: ElementKeyProps) {
  const { id, kind, name, note, count } = element;
  const look =
    kind === "channel" && column === "channels"
      ? "rounded-plate bg-plate text-letters"
      : "rounded-key border border-rule bg-sheet text-ink hover:border-act";
  return (
    <button
      type="button"
      data-element={id}
      onClick={() => onChoose(id)}
      onMouseEnter={() => onLook(id)}
      onMouseLeave={() => onLook(null)}
      onFocus={() => onLook(id)}
      onBlur={() => onLook(null)}
      title={note === "" ? name : `${name}: ${note}`}
      style={{ left: `${place.x}%`, top: place.y - ROW / 2 + 3, width: `${WIDTH}%`, height: ROW - 6 }}
      className={`absolute flex flex-col justify-center px-2.5 text-left ${look} ${isFaint ? "opacity-40" : ""}`}
    >
      {column !== "askers" && <Mark side="left" />}
      {column !== "channels" && <Mark side="right" />}
      <span className="flex w-full justify-between gap-2 font-plate font-semibold text-note">
        <span className="truncate">{name}</span>
        {count > 1 && <span title={`${count} ${column}`}>{count}</span>}
      </span>
      {note !== "" && (
        <span className="-mt-0.5 block w-full truncate text-[11px] leading-[14px] opacity-75">{note}</span>
      )}
    </button>
  );
}

function Mark({ side }: { side: "left" | "right" }) {
  return (
    <span
      aria-hidden="true"
      className={`absolute top-1/2 size-[7px] -translate-y-1/2 rounded-full bg-ink ${side === "left" ? "-left-[4px]" : "-right-[4px]"}`}
    />
  );
}
