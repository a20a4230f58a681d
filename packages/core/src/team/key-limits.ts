/** What a key may do at most. A key never gives more than the key that makes it: neither role, nor sites, nor time. */
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

/**
 * What is left of limits within others: the lesser role, the sites that stand in both, the earlier end.
 *
 * @example withinLimits({ most: "owner", sites: null, expiresAt: null }, { most: "user", sites: ["glasshouse"], expiresAt: 9 })
 *   // → { most: "user", sites: ["glasshouse"], expiresAt: 9 }
 */
export function withinLimits(wanted: KeyLimits, outer: KeyLimits): KeyLimits {
  return {
    most: least(wanted.most, outer.most, lesserRole),
    sites: least(wanted.sites, outer.sites, (mine, theirs) => mine.filter((site) => theirs.includes(site))),
    expiresAt: least(wanted.expiresAt, outer.expiresAt, Math.min),
  };
}

/** A limit that is null limits nothing. */
function least<Limit>(
  one: Limit | null,
  other: Limit | null,
  lesser: (one: Limit, other: Limit) => Limit,
): Limit | null {
  if (one === null) return other;
  return other === null ? one : lesser(one, other);
}

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
