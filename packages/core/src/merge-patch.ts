/** JSON Merge Patch (RFC 7396): what a call to PATCH changes. Pure. */

export type JsonFields = Readonly<Record<string, unknown>>;

/** Deeper patches are not merged: what reads bodies allows far fewer levels. */
const MOST_LEVELS = 200;

/**
 * What is left of a value after a patch (RFC 7396, section 2): null deletes a field, an object is merged, all else replaces.
 *
 * @example mergePatch({ name: "Porch", unit: "lx" }, { name: "Lantern", unit: null }) // → { name: "Lantern" }
 */
export function mergePatch(target: unknown, patch: unknown, level = 0): unknown {
  if (!isFields(patch) || level > MOST_LEVELS) return patch;
  const merged = new Map<string, unknown>(Object.entries(isFields(target) ? target : {}));
  for (const [field, value] of Object.entries(patch)) {
    if (value === null) merged.delete(field);
    else merged.set(field, mergePatch(merged.get(field), value, level + 1));
  }
  // A field called __proto__ stays a field.
  return Object.fromEntries(merged);
}

function isFields(value: unknown): value is JsonFields {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
