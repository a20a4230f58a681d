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

/** Stands for a space at which no line may end. Of the private use area: nobody writes it. */
const UNBROKEN = "\ue000";

/** A cell that stays on one line. @example unbroken("●──●──●──●  14 ms") */
export function unbroken(text: string): string {
  return text.replaceAll(" ", UNBROKEN);
}

/** Columns of the terminal; null: it is none, so lines may be as long as they are. */
function terminalWidth(): number | null {
  const columns = process.stdout.columns ?? Number(process.env.COLUMNS);
  return Number.isInteger(columns) && columns > 0 ? columns : null;
}

interface TableOptions {
  /** Columns that may be left out where the terminal is narrow, by index, the least needed first. `--json` has them all. */
  readonly optional?: readonly number[];
  /** Of the terminal; null: any. */
  readonly width?: number | null;
}

/**
 * Headings faint, two spaces between columns, no lines. Where it is wider than the terminal, columns that may be are left out; then long
 * cells go over several lines within their column; where that is not enough, each row is a list of its cells.
 *
 * @param right columns that are aligned right, by index
 */
export function table(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  right: readonly number[] = [],
  { optional = [], width = terminalWidth() }: TableOptions = {},
): string {
  const fits = (columns: readonly number[]) =>
    width === null ||
    lineWidth(
      widthsOf(
        [head, ...rows].map((row) => only(row, columns)),
        stringWidth,
      ),
    ) <= width;
  let columns = head.map((_, index) => index);
  for (const one of optional) if (!fits(columns)) columns = columns.filter((column) => column !== one);
  const left = head.filter((_, index) => !columns.includes(index));
  const shown = fitted(
    only(head, columns),
    rows.map((row) => only(row, columns)),
    columns.flatMap((column, place) => (right.includes(column) ? [place] : [])),
    width,
  );
  const note = left.length === 0 ? "" : `\n${faint(`Left out: ${left.join(", ")}. See --json.`)}`;
  return `${shown.replaceAll(UNBROKEN, " ")}${note}`;
}

const only = (row: readonly string[], columns: readonly number[]) => columns.map((column) => row[column] ?? "");

function fitted(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  right: readonly number[],
  width: number | null,
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
