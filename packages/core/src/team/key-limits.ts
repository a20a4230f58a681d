/** What a key may do at most. */
import { lesserRole, type Role, type Standing } from "./role.ts";

export interface KeyLimits {
  /** The highest role; null: that of its holder. */
  readonly most: Role | null;
  /** Slugs of the only sites that it reaches; null: those of its holder. */
  readonly sites: readonly string[] | null;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
}

/** Of a session: what its member may do. */
export const NO_LIMITS: KeyLimits = { most: null, sites: null, expiresAt: null };

/** There is no owner of some sites: whoever governs the team is an engineer at each of them. */
const MOST_AT_A_SITE: Role = "engineer";

/** What somebody may do with a key of these limits. Never more than without it. */
export function limitedStanding({ team, sites }: Standing, limits: KeyLimits): Standing {
  const capped = (role: Role) => (limits.most === null ? role : lesserRole(role, limits.most));
  const own = Object.entries(sites).map(([slug, role]) => [slug, capped(role)] as const);
  if (limits.sites === null) return { team: team === null ? null : capped(team), sites: Object.fromEntries(own) };
  const reached = limits.sites.flatMap((slug): [string, Role][] => {
    const role = team ?? sites[slug];
    return role === undefined ? [] : [[slug, capped(lesserRole(role, MOST_AT_A_SITE))]];
  });
  return { team: null, sites: Object.fromEntries(reached) };
}
