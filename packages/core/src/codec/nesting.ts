/** How deep a JSON text nests, known before any of it is read: deep nesting costs readers far more than its size. */

const QUOTE = 0x22;
const BACKSLASH = 0x5c;
const OPENING: readonly number[] = [0x5b, 0x7b];
const CLOSING: readonly number[] = [0x5d, 0x7d];

/**
 * Where more than so many brackets stand open; null: nowhere. Brackets within strings do not count.
 *
 * @example deeperThan('[["[[[["]]', 2) // → null
 */
export function deeperThan(text: string, most: number): number | null {
  if (text.length <= most) return null;
  let open = 0;
  let inString = false;
  for (let at = 0; at < text.length; at += 1) {
    const code = text.charCodeAt(at);
    if (inString && code === BACKSLASH) at += 1;
    else if (code === QUOTE) inString = !inString;
    else if (inString) continue;
    else if (OPENING.includes(code)) open += 1;
    else if (CLOSING.includes(code)) open = Math.max(0, open - 1);
    if (open > most) return at;
  }
  return null;
}
