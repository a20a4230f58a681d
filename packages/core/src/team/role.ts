/** Who may do what. A member has a role in the whole team, or one at each of some sites. */

/** From the least to the most: whoever has a role may do everything that those before it may. */
export const ROLES = ["reader", "user", "operator", "engineer", "owner"] as const;
export type Role = (typeof ROLES)[number];

/**
 * - see: the board, and what became of one's own requests and of those of the site
 * - switch: relays and lights
 * - operate: lock out, release, cancel what is open; the request log and its export
 * - build: devices, inlets, notifications and their keys
 * - govern: members, everybody's keys, the audit log; of the whole team only
 */
export const RIGHTS = ["see", "switch", "operate", "build", "govern"] as const;
export type Right = (typeof RIGHTS)[number];

const LEAST: Readonly<Record<Right, Role>> = {
  see: "reader",
  switch: "user",
  operate: "operator",
  build: "engineer",
  govern: "owner",
};

/** Whether a role has a right. */
export function mayDo(role: Role, right: Right): boolean {
  return ROLES.indexOf(role) >= ROLES.indexOf(LEAST[right]);
}

/** The lesser of two roles. */
export function lesserRole(one: Role, other: Role): Role {
  return ROLES.indexOf(one) < ROLES.indexOf(other) ? one : other;
}

/** A role of the whole team, or roles by site. */
export interface Standing {
  readonly team: Role | null;
  /** By the site's slug. */
  readonly sites: Readonly<Record<string, Role>>;
}

/**
 * The sites at which somebody has a right.
 *
 * @returns null for every site, an empty list for none
 * @example sitesWith({ team: null, sites: { "alder-row": "user" } }, "switch") // → ["alder-row"]
 */
export function sitesWith({ team, sites }: Standing, right: Right): readonly string[] | null {
  if (team !== null && mayDo(team, right)) return null;
  if (right === "govern") return [];
  return Object.entries(sites)
    .filter(([, role]) => mayDo(role, right))
    .map(([slug]) => slug);
}

/** The highest role that somebody has anywhere; null when they have none. */
export function highestRole({ team, sites }: Standing): Role | null {
  const all = [...Object.values(sites), ...(team === null ? [] : [team])];
  return ROLES.findLast((role) => all.includes(role)) ?? null;
}
