/** Tables of text that fit the terminal: no line of a row is wider than it. */
import { stripVTControlCharacters } from "node:util";
import Table from "cli-table3";
import stringWidth from "string-width";
import { bold, faint } from "./output.ts";

/** Columns between two columns of a table. */
const GAP = 2;
/** A column that is narrower than this, or than its longest word, cannot be read any more. */
const LEAST = 8;
/** Longer words than this may be broken: ids, addresses and topics are not. */
const LONGEST_WORD = 40;

const NO_LINES = Object.fromEntries(
  ["top", "top-mid", "top-left", "top-right", "bottom", "bottom-mid", "bottom-left", "bottom-right"]
    .concat(["left", "left-mid", "mid", "mid-mid", "right", "right-mid"])
    .map((part) => [part, ""]),
);

/** Columns of the terminal; null: it is none, so lines may be as long as they are. */
export function terminalWidth(): number | null {
  const columns = process.stdout.columns ?? Number(process.env.COLUMNS);
  return Number.isInteger(columns) && columns > 0 ? columns : null;
}

/**
 * Headings faint, two spaces between columns, no lines. Where it is wider than the terminal, long cells go over several lines within
 * their column; where that is not enough, each row is a list of its cells.
 *
 * @param right columns that are aligned right, by index
 * @param width of the terminal; null: any
 */
export function table(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  right: readonly number[] = [],
  width: number | null = terminalWidth(),
): string {
  const natural = widthsOf([head, ...rows], stringWidth);
  if (width === null || lineWidth(natural) <= width) return drawn(head, rows, right, null);
  const least = widthsOf([head, ...rows], longestWord).map((one, column) =>
    Math.min(natural[column] ?? 0, Math.max(one, LEAST)),
  );
  if (lineWidth(least) > width) return listed(head, rows);
  return drawn(head, rows, right, shrunk(natural, least, width));
}

function drawn(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  right: readonly number[],
  widths: readonly number[] | null,
): string {
  const made = new Table({
    chars: { ...NO_LINES, middle: " ".repeat(GAP) },
    style: { "padding-left": 0, "padding-right": 0, head: [], border: [] },
    colAligns: head.map((_, index) => (right.includes(index) ? "right" : "left")),
    ...(widths === null ? {} : { colWidths: [...widths], wordWrap: true }),
  });
  made.push(head.map(faint), ...rows.map((row) => [...row]));
  return made
    .toString()
    .split("\n")
    .map((line) => line.trimEnd())
    .join("\n");
}

/** The widest columns give first, evenly, and none more than it can. */
function shrunk(natural: readonly number[], least: readonly number[], width: number): number[] {
  const widths = [...natural];
  for (let over = lineWidth(widths) - width; over > 0; over -= 1) {
    const givers = widths.map((one, column) => (one > (least[column] ?? 0) ? one : -1));
    const widest = givers.indexOf(Math.max(...givers));
    widths[widest] = (widths[widest] ?? 0) - 1;
  }
  return widths;
}

/** A row as lines "heading  cell"; empty cells are left out. */
function listed(head: readonly string[], rows: readonly (readonly string[])[]): string {
  const label = Math.max(0, ...head.map(stringWidth));
  return rows
    .map((row) =>
      row
        .map((cell, column) => [head[column] ?? "", cell] as const)
        .filter(([, cell]) => stripVTControlCharacters(cell) !== "")
        .map(([name, cell], place) => {
          const padded = name.padEnd(label);
          return `${place === 0 ? bold(padded) : faint(padded)}  ${cell}`;
        })
        .join("\n"),
    )
    .join("\n\n");
}

function widthsOf(rows: readonly (readonly string[])[], measure: (cell: string) => number): number[] {
  const columns = Math.max(0, ...rows.map((row) => row.length));
  return Array.from({ length: columns }, (_, column) => Math.max(0, ...rows.map((row) => measure(row[column] ?? ""))));
}

function lineWidth(widths: readonly number[]): number {
  return widths.reduce((sum, width) => sum + width, 0) + GAP * Math.max(0, widths.length - 1);
}

function longestWord(cell: string): number {
  const words = stripVTControlCharacters(cell).split(/\s+/);
  return Math.min(LONGEST_WORD, Math.max(0, ...words.map(stringWidth)));
}
