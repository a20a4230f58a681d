/** What saving a version of a site again would change: compared where a large one holds nobody up. */
import type { AuditChange } from "@bold-relay/core";
import { findVersion } from "../store/description-versions.ts";
import type { Db } from "../store/pool.ts";
import { descriptionChanges } from "../views/description-changes.ts";

/** @param now the version that is in effect; 0: the site is deleted */
export async function siteVersionChanges(db: Db, slug: string, now: number, then: number): Promise<AuditChange[]> {
  const before = now === 0 ? null : await findVersion(db, "site", slug, now);
  const after = await findVersion(db, "site", slug, then);
  return after === null ? [] : descriptionChanges("site", before, after);
}
