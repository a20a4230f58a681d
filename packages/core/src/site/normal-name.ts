/** The one form in which names are compared. */

/** @example normalName("  Porch  LANTERN, Wren ") // → "porch lantern wren" */
export function normalName(text: string): string {
  return text.normalize("NFKC").toLowerCase().replaceAll(",", " ").replace(/\s+/gu, " ").trim();
}
