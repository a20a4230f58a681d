/** JSON Pointer (RFC 6901): a path into a JSON document. */

/** Found nothing there. */
export const NOTHING = Symbol("nothing");

/**
 * @param pointer "" for the whole document, else "/a/b~1c/0"
 * @example lookUp({ relays: [{ on: true }] }, "/relays/0/on") // → true
 */
export function lookUp(document: unknown, pointer: string): unknown {
  let here = document;
  for (const step of pointer.split("/").slice(1)) {
    // "~1" before "~0", or "~01" would become a slash (RFC 6901, section 4).
    const name = step.replaceAll("~1", "/").replaceAll("~0", "~");
    if (Array.isArray(here)) {
      if (!/^(?:0|[1-9]\d*)$/.test(name)) return NOTHING;
      here = Number(name) < here.length ? here[Number(name)] : NOTHING;
    } else if (typeof here === "object" && here !== null && Object.hasOwn(here, name)) {
      here = (here as Record<string, unknown>)[name];
    } else {
      return NOTHING;
    }
    if (here === NOTHING) return NOTHING;
  }
  return here;
}

/** Whether a text is a JSON Pointer. */
export function isPointer(text: string): boolean {
  return /^(?:\/(?:[^~/]|~[01])*)*$/.test(text);
}
