/**
 * Under which name it is counted how a request came: by a member, by a route of an inlet, by the inlet itself, or by a rule of ours. A route is
 * known by what it catches, so its counts stay with it when routes are moved, renamed, or do something else.
 */
import type { InletDescription, Route } from "../inlet/model.ts";

export function memberWay(memberId: number): string {
  return `member:${memberId}`;
}

/** @param rule its name, as `Asker.inlet` has it */
export function ruleWay(rule: string): string {
  return `rule:${rule}`;
}

/** @param route null: no route was needed */
export function inletWay(slug: string, route: Pick<Route, "when" | "only"> | null): string {
  return route === null ? `inlet:${slug}` : `inlet:${slug}#${catchHash(route)}`;
}

/** The ways of all its routes, in order. */
export function routeWays({ slug, routes = [] }: Pick<InletDescription, "slug" | "routes">): string[] {
  return routes.map((route) => inletWay(slug, route));
}

function catchHash({ when, only }: Pick<Route, "when" | "only">): string {
  return textHash(JSON.stringify(sorted([when, only ?? null])));
}

/** The order of fields is not what somebody means. */
function sorted(part: unknown): unknown {
  if (Array.isArray(part)) return part.map(sorted);
  if (typeof part !== "object" || part === null) return part;
  const entries = Object.entries(part).map(([name, value]) => [name, sorted(value)] as const);
  return Object.fromEntries(entries.sort(([one], [other]) => (one < other ? -1 : 1)));
}

const MASK = 0xffff_ffff_ffff_ffffn;

/** FNV-1a of 64 bits over UTF-16 code units: to tell the routes of one inlet apart, not to protect anything. */
function textHash(text: string): string {
  let hash = 0xcbf2_9ce4_8422_2325n;
  for (let at = 0; at < text.length; at += 1) hash = ((hash ^ BigInt(text.charCodeAt(at))) * 0x100_0000_01b3n) & MASK;
  return hash.toString(16).padStart(16, "0");
}
