/** What people read, and what programs read: lines and tables, or with `--json` JSON Lines and nothing else. */
import { styleText } from "node:util";

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

/**
 * With `--json` a verb that has nothing but a sentence to say says it as an object, `{"message": …}`, at its end. So every verb
 * answers programs in JSON, also one that does not think of it.
 */
const asJson = { on: false, printed: false, sentences: [] as string[] };

/** @param on whether this run answers in JSON */
export function answerInJson(on: boolean): void {
  asJson.on = on;
}

export function answersInJson(): boolean {
  return asJson.on;
}

export function printLine(text = ""): void {
  if (asJson.on) asJson.sentences.push(text);
  else write(text);
}

export function printJson(value: unknown): void {
  asJson.printed = true;
  write(JSON.stringify(value));
}

/** A whole file or script on standard output, as it is; `{"text": …}` with `--json`. */
export function printText(text: string): void {
  if (asJson.on) printJson({ text });
  else process.stdout.write(text);
}

/** At the end of a run. */
export function finishOutput(): void {
  if (!asJson.on || asJson.printed || asJson.sentences.length === 0) return;
  const message = asJson.sentences.filter((line) => line !== "").join("\n");
  printJson({ message });
}

function write(text: string): void {
  process.stdout.write(`${visible(text)}\n`);
}
