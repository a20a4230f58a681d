/** Identifiers that exist in this installation, for whoever writes a description. */
import { useBoard } from "../../api/board.ts";
import { useProfiles } from "../../api/queries.ts";
import type { KnownNames } from "./complete.ts";

/** @param site the site that the description belongs to; null: every site, so addresses begin with their site */
export function useKnownNames(site: string | null): KnownNames {
  const { data: board } = useBoard();
  const { data: profiles } = useProfiles();
  const sites = board?.sites ?? [];
  return (place) => {
    if (/(^|\/)profile$/.test(place)) return (profiles ?? []).map(({ profile }) => profile.slug);
    if (place === "site") return sites.map(({ slug }) => slug);
    if (!/(^|\/)(channels|channel|target|open|shut|scene)$/.test(place)) return [];
    const seen = sites.filter(({ slug }) => site === null || slug === site);
    const bundles = place.endsWith("target") ? seen.flatMap((one) => one.bundles.map(({ address }) => address)) : [];
    const channels = seen.flatMap((one) => one.channels.map(({ address }) => address));
    return [...channels, ...bundles].map((address) =>
      site === null ? address : address.split("/").slice(1).join("/"),
    );
  };
}
