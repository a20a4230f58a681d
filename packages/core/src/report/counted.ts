/** A count with its noun, which is singular for one. Pure. */

/**
 * @param other of any number but one; left out: the noun with an s
 * @example counted(1, "site") // → "1 site"
 * @example counted(0, "change") // → "0 changes"
 * @example counted(2, "match", "matches") // → "2 matches"
 */
export function counted(count: number, noun: string, other = `${noun}s`): string {
  return `${count} ${count === 1 ? noun : other}`;
}
