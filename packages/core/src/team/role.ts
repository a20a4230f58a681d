/** Who may do what. A member has a role in the whole team, or one at each of some sites. */

/** From the least to the most: whoever has a role may do everything that those before it may. */
export const ROLES = ["viewer", "operator", "engineer", "owner"] as const;
export type Role = (typeof ROLES)[number];

/**
 * - see: look at the board, and at what became of one's own and the site's requests
 * - ask: switch
 * - hold: lock out, release, close what is open; the journal of deliveries and its export
 * - build: devices, inlets and their keys
 * - govern: members, everybody's keys, the audit; of the whole team only
 */
export const RIGHTS = ["see", "ask", "hold", "build", "govern"] as const;
export type Right = (typeof RIGHTS)[number];

const LEAST: Readonly<Record<Right, Role>> = {
  see: "viewer",
  ask: "viewer",
  hold: "operator",
  build: "engineer",
  govern: "owner",
};

/** Whether a role has a right. */
export function mayDo(role: Role, right: Right): boolean {
  return ROLES.indexOf(role) >= ROLES.indexOf(LEAST[right]);
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
 * @example sitesWith({ team: null, sites: { "alder-row": "viewer" } }, "ask") // → ["alder-row"]
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

/** A standing that is nowhere above a role: what a key of less than its holder's rights may do. */
export function cappedAt({ team, sites }: Standing, most: Role): Standing {
  const lesser = (role: Role) => (ROLES.indexOf(role) < ROLES.indexOf(most) ? role : most);
  const capped = Object.entries(sites).map(([slug, role]) => [slug, lesser(role)] as const);
  return { team: team === null ? null : lesser(team), sites: Object.fromEntries(capped) };
}
