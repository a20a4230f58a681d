/**
 * Reading, checking and comparing a site as it is described: what takes seconds for a big one. Runs in a thread of its own
 * (`worker.ts`), with a database connection of its own, so that no caller's file holds up anybody's switch.
 */
import { siteSchema } from "@bold-relay/api/schema";
import {
  buildSnapshot,
  checkSite,
  compareSites,
  type Finding,
  type Profile,
  RelayError,
  type SiteChange,
  type Snapshot,
  type TopicUse,
} from "@bold-relay/core";
import { checked, parseJson } from "../http-exchange/body.ts";
import { findChannels, findProfiles, findSite, type PreparedSite, preparedSite } from "../store/model.ts";
import type { Db } from "../store/pool.ts";

/** What a description would change, and what is wrong or doubtful about it. */
export interface SitePlan {
  /** That it was compared with; 0: there is no such site. */
  readonly version: number;
  readonly changes: readonly SiteChange[];
  readonly findings: readonly Finding[];
}

export interface CheckedSite {
  readonly plan: SitePlan;
  /** As it goes to the database. */
  readonly prepared: PreparedSite;
}

/**
 * @param slug that it must have
 * @param text JSON
 * @throws RelayError bad-json or bad-request
 */
export async function checkSiteText(db: Db, slug: string, text: string): Promise<CheckedSite> {
  const site = checked(siteSchema, parseJson(text));
  if (site.slug !== slug)
    throw new RelayError("bad-request", { why: `The site is ${slug} in the address and ${site.slug} in the body` });
  const [known, profiles, snapshot] = await Promise.all([findSite(db, slug), findProfiles(db), modelOf(db)]);
  const bySlug = new Map([...profiles].map(([name, { profile }]) => [name, profile]));
  const plan = {
    version: known?.version ?? 0,
    changes: compareSites(known?.site ?? null, site),
    findings: checkSite(site, { profiles: bySlug, ownerOf: (topic) => ownerIn(snapshot, topic, slug) }),
  };
  return { plan, prepared: preparedSite(site) };
}

/** What would be wrong or doubtful at these sites with a profile as it would be. */
export async function checkProfileAt(db: Db, profile: Profile, slugs: readonly string[]): Promise<Finding[]> {
  const [profiles, snapshot] = await Promise.all([findProfiles(db), modelOf(db)]);
  const bySlug = new Map([...profiles].map(([name, known]) => [name, known.profile]));
  bySlug.set(profile.slug, profile);
  const findings: Finding[] = [];
  for (const slug of slugs) {
    const known = await findSite(db, slug);
    const ownerOf = (topic: string) => ownerIn(snapshot, topic, slug);
    if (known) findings.push(...checkSite(known.site, { profiles: bySlug, ownerOf }));
  }
  return findings;
}

/** Whose topics there are; groups and scenes have none. */
async function modelOf(db: Db): Promise<Snapshot> {
  return buildSnapshot(await findChannels(db));
}

function ownerIn({ byTopic }: Snapshot, topic: string, besides: string): string | null {
  const use = byTopic.get(topic);
  if (!use) return null;
  const owner = deviceOf(use);
  return owner?.startsWith(`${besides}/`) ? null : owner;
}

/** The address of a device that a topic belongs to. */
export function deviceOf(use: TopicUse): string | null {
  if (use.here) return use.here.device;
  const [channel] = [use.is, use.done, use.do, use.ask].flat();
  return channel?.device.address ?? null;
}
