/** Routes in the YAML text of an inlet: added and moved, with comments and all else as people wrote them. Pure. */
import { PHRASES, type Route } from "@bold-relay/core";
import { withList, withMoved } from "./list-text.ts";

const ROUTES = ["routes"];

/**
 * @param at its place among the routes, from 0
 * @param readsPhrases without routes it reads phrases, and shall go on
 * @returns the text as it was where it cannot be read
 */
export function withRoute(text: string, route: Route, at: number, readsPhrases: boolean): string {
  return withList(text, ROUTES, true, (routes, make) => {
    const isFirst = routes.items.length === 0;
    routes.items.splice(at, 0, make(route));
    if (isFirst && readsPhrases) routes.items.push(make(PHRASES));
  });
}

export function withMovedRoute(text: string, from: number, to: number): string {
  return withMoved(text, ROUTES, from, to);
}
