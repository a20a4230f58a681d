/** One field of a YAML text is set or taken out; comments, order and all else stay as people wrote them. Pure. */
import { isMap, parseDocument } from "yaml";

/** The value of a field; undefined: it is not there, or the text cannot be read. */
export function fieldIn(text: string, path: readonly string[]): unknown {
  const document = parseDocument(text, { logLevel: "silent" });
  return document.errors.length > 0 || !isMap(document.contents) ? undefined : document.getIn(path);
}

/**
 * @param value undefined: the field is taken out, and what held only that with it
 * @returns the text as it was where it cannot be read
 * @example withField("name: A # old\n", ["name"], "B") // → "name: B # old\n"
 */
export function withField(text: string, path: readonly string[], value: unknown): string {
  const document = parseDocument(text, { logLevel: "silent" });
  if (document.errors.length > 0 || !isMap(document.contents)) return text;
  try {
    if (value === undefined) {
      document.deleteIn(path);
      const holder = path.slice(0, -1);
      const left = holder.length > 0 ? document.getIn(holder) : null;
      if (isMap(left) && left.items.length === 0) document.deleteIn(holder);
    } else document.setIn(path, value);
  } catch {
    // Something on the way is no list of fields.
    return text;
  }
  return document.toString({ lineWidth: 0 });
}
