/** Long texts where there is little room. */

/** @example shortened("abcdefgh", 5) // → "abcde … and 3 more characters" */
export function shortened(text: string, most: number): string {
  return text.length <= most ? text : `${text.slice(0, most)} … and ${text.length - most} more characters`;
}
