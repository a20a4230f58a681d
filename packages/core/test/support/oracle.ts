/**
 * A slow, honest reader of payloads, for the fuzzer to compare the codecs with. It knows only what the forms promise, takes no
 * short cuts, and shares no code with them: it tries each value that a channel can have, writes it down as the device would, and
 * looks whether that is what came.
 */
export interface PlainForm {
  readonly about: string;
  /** The device's own words for on and off, or its numbers for 0 and 100. */
  readonly on: string;
  readonly off: string;
  readonly range?: readonly [number, number];
  /** What stands before and after the value. */
  readonly before: string;
  readonly after: string;
}

/** @returns every value that the text may stand for: none, one, or more than one where the form is ambiguous */
export function honestValues(text: string, form: PlainForm): Set<string> {
  const trimmed = text.trim();
  const found = new Set<string>();
  for (const [value, word] of [
    ["on", form.on],
    ["off", form.off],
  ] as const) {
    const written = `${form.before}${word}${form.after}`;
    if (sameButForCase(trimmed, written) || looseInside(trimmed, form, word)) found.add(value);
  }
  if (!form.range) return found;
  const inside = insideOf(trimmed, form);
  if (inside === null || !/^[-+]?[0-9]{1,9}(\.[0-9]{1,6})?$/.test(inside)) return found;
  const number = Number(inside);
  const [from, to] = form.range;
  // A whole level is what exactly this whole number is written for.
  for (let level = 0; level <= 100; level += 1)
    if (Math.abs(number - (from + (level / 100) * (to - from))) <= 0.5 && Number.isInteger(number))
      found.add(String(level));
  return found;
}

/** Whether a level with digits after the point is what the number in the text stands for. */
export function isHonestLevel(text: string, level: number, form: PlainForm): boolean {
  const [from, to] = form.range ?? [0, 100];
  const number = Number(insideOf(text.trim(), form));
  return Math.abs(from + (level / 100) * (to - from) - number) <= Math.abs(to - from) * 0.0006;
}

function insideOf(text: string, { before, after }: PlainForm): string | null {
  const low = text.toLowerCase();
  if (!low.startsWith(before.toLowerCase()) || !low.endsWith(after.toLowerCase())) return null;
  if (text.length < before.length + after.length) return null;
  return text.slice(before.length, text.length - after.length).trim();
}

function looseInside(text: string, form: PlainForm, word: string): boolean {
  const inside = insideOf(text, form);
  return inside !== null && sameButForCase(inside, word);
}

function sameButForCase(one: string, other: string): boolean {
  return one.trim().toLowerCase() === other.trim().toLowerCase();
}

/** Whether a JSON text says at a path what a relay is: by walking it key by key. @returns null: it says nothing there */
export function honestField(text: string, path: readonly string[]): unknown {
  let here: unknown;
  try {
    // Boards put what they like around a document: line ends, a byte order mark, a vertical tab.
    here = JSON.parse(text.trim());
  } catch {
    return null;
  }
  for (const step of path) {
    if (typeof here !== "object" || here === null) return null;
    const entry = Object.entries(here).find(([name]) => name === step);
    if (!entry) return null;
    here = entry[1];
  }
  return here;
}
