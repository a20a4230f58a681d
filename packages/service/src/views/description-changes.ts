/** What differs between two versions of a description, place by place: of a site by its parts, of all else by its fields. */
import { type AuditChange, auditChanges, compareSites, type SiteChange, type SiteDescription } from "@bold-relay/core";
import type { Description, DescriptionKind } from "../store/description-versions.ts";

/** @param before null: there is none now */
export function descriptionChanges(
  kind: DescriptionKind,
  before: Description | null,
  after: Description,
): AuditChange[] {
  if (kind !== "site") return auditChanges(before, after);
  return compareSites(before as SiteDescription | null, after as SiteDescription)
    .flatMap(partChanges)
    .slice(0, MOST_CHANGES);
}

/** More than this nobody reads. */
const MOST_CHANGES = 50;

/** @example partChanges({ what: "group", name: "vents", change: "added", fields: [] }) // → [{ place: "group vents", from: null, to: "added" }] */
export function partChanges({ what, name, change, fields }: SiteChange): AuditChange[] {
  const place = `${what} ${name}`;
  if (change === "added") return [{ place, from: null, to: "added" }];
  if (change === "removed") return [{ place, from: "there", to: null }];
  return fields.map(({ field, from, to }) => ({ place: `${place}: ${field}`, from: shown(from), to: shown(to) }));
}

function shown(value: unknown): string | null {
  return value === null ? null : typeof value === "string" ? value : JSON.stringify(value);
}
