/** Routes in the YAML text of an inlet: added and moved, with comments and all else as people wrote them. Pure. */
import type { Route } from "@bold-relay/core";
import { isMap, isSeq, parseDocument, type YAMLSeq } from "yaml";

/** What is added where an inlet has no routes so far: without one it would understand no phrase any more. */
const PHRASES = { name: "whatever is understood", when: { phrase: true }, do: { phrase: "{text}" } } as const;

/**
 * @param at its place among the routes, from 0
 * @param readsPhrases without routes it reads phrases, and shall go on
 * @returns the text as it was where it cannot be read
 */
export function withRoute(text: string, route: Route, at: number, readsPhrases: boolean): string {
  return edited(text, true, (routes, make) => {
    const isFirst = routes.items.length === 0;
    routes.items.splice(at, 0, make(route));
    if (isFirst && readsPhrases) routes.items.push(make(PHRASES));
  });
}

/** @example withMovedRoute("routes:\n  - a\n  - b\n", 1, 0) // → "routes:\n  - b\n  - a\n" */
export function withMovedRoute(text: string, from: number, to: number): string {
  return edited(text, false, (routes) => {
    const [moved] = routes.items.splice(from, 1);
    if (moved !== undefined) routes.items.splice(to, 0, moved);
  });
}

type Edit = (routes: YAMLSeq, make: (value: unknown) => unknown) => void;

/** @param create whether a list of routes is begun where there is none */
function edited(text: string, create: boolean, edit: Edit): string {
  const document = parseDocument(text, { logLevel: "silent" });
  if (document.errors.length > 0 || !isMap(document.contents)) return text;
  if (create && !document.has("routes")) document.set("routes", document.createNode([]));
  const routes = document.get("routes");
  if (!isSeq(routes)) return text;
  routes.flow = false;
  edit(routes, (value) => document.createNode(value));
  return document.toString({ lineWidth: 0 });
}
