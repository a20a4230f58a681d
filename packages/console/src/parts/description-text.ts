/** A description as people edit it: YAML, or JSON, which is YAML too. */
import { parse } from "yaml";

/** @returns the fields as they stand, or what is wrong with the text; the service checks the fields */
export function readDescription<T extends object>(text: string): T | { readonly wrong: string } {
  try {
    const read: unknown = parse(text, { maxAliasCount: 100 });
    if (typeof read === "object" && read !== null && !Array.isArray(read)) {
      // An alias within its own anchor has no end: it could neither be sent nor kept.
      return isEndless(read) ? { wrong: "An alias stands within what it refers to." } : (read as T);
    }
    return { wrong: "A description is a list of fields, like “slug: …”." };
  } catch (error) {
    // The first line says it; those after it draw the place.
    return { wrong: (error instanceof Error ? error.message : String(error)).split("\n")[0] ?? "" };
  }
}

function isEndless(read: object): boolean {
  try {
    JSON.stringify(read);
    return false;
  } catch {
    return true;
  }
}
