/** Which sites somebody may see. Slugs; null: every one. */
import { RelayError, type Snapshot } from "@bold-relay/core";

/** Whether what belongs to a site (null: to the whole team) is theirs to see. */
export function isWithin(site: string | null, sites: readonly string[] | null): boolean {
  return sites === null || (site !== null && sites.includes(site));
}

/**
 * What is left of them where one is asked for.
 *
 * @param site undefined: no one of them is
 * @throws RelayError not-found when it does not exist, or may not be seen
 */
export function narrowed(
  site: string | undefined,
  sites: readonly string[] | null,
  { channels }: Snapshot,
): readonly string[] | null {
  if (site === undefined) return sites;
  if (isWithin(site, sites) && channels.some((channel) => channel.site.slug === site)) return [site];
  throw new RelayError("not-found", { what: `Site ${site}` });
}
