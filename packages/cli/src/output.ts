/** Aligned tables, colour only on a terminal, JSON Lines for programs. */
import { styleText } from "node:util";
import Table from "cli-table3";

type Style = Parameters<typeof styleText>[0];

/** Whether standard output is a terminal that may be drawn on. */
export const onTerminal = process.stdout.isTTY === true;
const coloured = onTerminal && process.env.NO_COLOR === undefined;

function paint(style: Style, text: string): string {
  return coloured ? styleText(style, text) : text;
}

export const bold = (text: string) => paint("bold", text);
export const faint = (text: string) => paint("dim", text);
export const wrong = (text: string) => paint("red", text);
export const lit = (text: string) => paint("yellow", text);

/** The codes that `paint` writes (ECMA-48, SGR): nothing else that steers a terminal leaves here. */
const OURS = new Set([0, 1, 2, 22, 31, 33, 39].map((code) => `\u001b[${code}m`));
const STEERING = /\p{Cc}(?:\[\d{1,2}m)?|[\u2028\u2029\u202a-\u202e\u2066-\u2069]/gu;

/** What comes from elsewhere may try to steer the terminal: what is neither text nor a colour of ours is shown as its code. */
export function visible(text: string): string {
  return text.replace(STEERING, (found) => (OURS.has(found) ? found : escaped(found.charAt(0)) + found.slice(1)));
}

/** @example escaped("\u009b") // → "\\u009b" */
function escaped(character: string): string {
  if (character === "\n" || character === "\t") return character;
  return `\\u${character.charCodeAt(0).toString(16).padStart(4, "0")}`;
}

export function printLine(text = ""): void {
  process.stdout.write(`${visible(text)}\n`);
}

export function printJson(value: unknown): void {
  printLine(JSON.stringify(value));
}

const NO_LINES = Object.fromEntries(
  ["top", "top-mid", "top-left", "top-right", "bottom", "bottom-mid", "bottom-left", "bottom-right"]
    .concat(["left", "left-mid", "mid", "mid-mid", "right", "right-mid"])
    .map((part) => [part, ""]),
);

/**
 * A table of text: headings faint, two spaces between columns, no lines.
 *
 * @param right columns that are aligned right, by index
 */
export function table(
  head: readonly string[],
  rows: readonly (readonly string[])[],
  right: readonly number[] = [],
): string {
  const drawn = new Table({
    chars: { ...NO_LINES, middle: "  " },
    style: { "padding-left": 0, "padding-right": 0, head: [], border: [] },
    colAligns: head.map((_, index) => (right.includes(index) ? "right" : "left")),
  });
  drawn.push(head.map(faint), ...rows.map((row) => [...row]));
  return drawn
    .toString()
    .split("\n")
    .map((line) => line.trimEnd())
    .join("\n");
}
