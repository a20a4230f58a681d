/**
 * Text with holes, written and read by the same words: "R{index}={value}". A hole takes everything up to the text after
 * it, so that reading costs no more than the payload is long. What stands between holes may differ in case.
 */

/**
 * What a hole may stand for. `for` and `ramp` are times, `list` the values of all channels side by side, `node` the board behind a shared
 * topic, `number` a short number in place of an id. `*` is whatever stands there, and counts for nothing; it is in what is read only.
 */
export const HOLES = [
  "value",
  "list",
  "index",
  "channel",
  "node",
  "id",
  "number",
  "for",
  "ramp",
  "result",
  "red",
  "green",
  "blue",
  "hue",
  "saturation",
  "brightness",
  "*",
] as const;
export type Hole = (typeof HOLES)[number];

export type Filling = Partial<Record<Hole, string | number | boolean>>;

/** Longest text that a hole may hold, characters: the colours of a whole string of lamps. */
const LONGEST = 800;
const PARTS = /\{([a-z]+|\*)\}/g;

/** The holes of a template, in order. */
export function holesOf(template: string): string[] {
  return [...template.matchAll(PARTS)].map((match) => match[1] ?? "");
}

/** @example fill("R{index}={value}", { index: 3, value: "ON" }) // → "R3=ON" */
export function fill(template: string, filling: Filling): string {
  return template.replace(PARTS, (_, hole: Hole) => String(filling[hole] ?? ""));
}

/**
 * @returns what stands in the holes; null when the text is not of this template
 * @example read("R{index}={value}", "r3=ON") // → { index: "3", value: "ON" }
 */
export function read(template: string, text: string): Partial<Record<Hole, string>> | null {
  // Pieces come by turns: text, the name of a hole, text, …
  const [start = "", ...pieces] = template.trim().split(PARTS);
  const plain = text.trim();
  const searched = plain.toLowerCase();
  if (!searched.startsWith(start.toLowerCase())) return null;
  const found: Partial<Record<Hole, string>> = {};
  let at = start.length;
  for (let index = 0; index < pieces.length; index += 2) {
    const after = (pieces[index + 1] ?? "").toLowerCase();
    const end = index + 2 >= pieces.length ? endBefore(searched, after) : searched.indexOf(after, at);
    const inside = end < at || end - at > LONGEST ? "" : plain.slice(at, end).trim();
    const hole = pieces[index] as Hole;
    if (hole === "*" ? end < at : inside === "") return null;
    if (hole !== "*") found[hole] = inside;
    at = end + after.length;
  }
  return at === plain.length ? found : null;
}

/**
 * The same of parts that may come in any order, with others between them: "state=on;rssi=-60;ch=3".
 *
 * @param separator stands between the parts
 * @returns null when a part of the template is missing
 * @example readInAnyOrder("ch={index};state={value}", ";", "state=on;rssi=-60;ch=3") // → { index: "3", value: "on" }
 */
export function readInAnyOrder(
  template: string,
  separator: string,
  text: string,
): Partial<Record<Hole, string>> | null {
  const said = text.split(separator);
  const all: Partial<Record<Hole, string>> = {};
  for (const part of template.split(separator)) {
    const found = said.map((one) => read(part, one)).find((one) => one !== null);
    if (!found) return null;
    Object.assign(all, found);
  }
  return all;
}

/** Where the last text begins; -1 when the whole does not end with it. */
function endBefore(searched: string, last: string): number {
  return searched.endsWith(last) ? searched.length - last.length : -1;
}
