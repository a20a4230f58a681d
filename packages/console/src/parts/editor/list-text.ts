/** A list in the YAML text of a description: changed, with comments and all else as people wrote them. Pure. */
import { isMap, isSeq, parseDocument, type YAMLSeq } from "yaml";

export type ListEdit = (list: YAMLSeq, make: (value: unknown) => unknown) => void;

/**
 * @param path names of fields down to the list
 * @param create whether a list is begun where there is none
 * @returns the text as it was where it cannot be read
 */
export function withList(text: string, path: readonly string[], create: boolean, edit: ListEdit): string {
  const document = parseDocument(text, { logLevel: "silent" });
  if (document.errors.length > 0 || !isMap(document.contents)) return text;
  if (create && !document.hasIn(path)) document.setIn(path, document.createNode([]));
  const list = document.getIn(path);
  if (!isSeq(list)) return text;
  list.flow = false;
  edit(list, (value) => document.createNode(value));
  return document.toString({ lineWidth: 0 });
}

/** @example withMoved("routes:\n  - a\n  - b\n", ["routes"], 1, 0) // → "routes:\n  - b\n  - a\n" */
export function withMoved(text: string, path: readonly string[], from: number, to: number): string {
  return withList(text, path, false, (list) => {
    const [moved] = list.items.splice(from, 1);
    if (moved !== undefined) list.items.splice(to, 0, moved);
  });
}
