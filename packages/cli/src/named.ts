/** Names that a reader types: what is not there is an error, with the nearest that is. */
import type { Client, SiteListView } from "@bold-relay/api";
import { nearestWords } from "@bold-relay/core";
import { UsageError } from "./problem-text.ts";

/**
 * @param what "site", "profile"
 * @param also words that are valid in its place: verbs
 * @throws UsageError with the nearest names
 */
function requireNamed(what: string, name: string, known: readonly string[], also: readonly string[] = []): void {
  if (known.includes(name)) return;
  const nearest = nearestWords(name, [...known, ...also]);
  const shown = nearest.length > 0 || known.length > 8 ? "" : ` There is: ${known.join(", ")}.`;
  throw new UsageError(`There is no ${what} “${name}”.${known.length === 0 ? "" : shown}`, nearest);
}

/** All sites, or the one of this name. @throws UsageError when there is none */
export async function sitesNamed(
  client: Client,
  slug: string | undefined,
  also: readonly string[] = [],
): Promise<SiteListView[]> {
  const sites = await client.sites();
  if (slug === undefined) return sites;
  requireNamed(
    "site",
    slug,
    sites.map((site) => site.slug),
    also,
  );
  return sites.filter((site) => site.slug === slug);
}
