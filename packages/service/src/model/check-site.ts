/**
 * Reading, checking and comparing a site as it is described: what takes seconds for a big one. Runs in a thread of its own
 * (`worker.ts`), with a database connection of its own, so that no caller's file holds up anybody's switch.
 */
import { siteSchema } from "@bold-relay/api/schema";
import {
  buildReach,
  buildSnapshot,
  type ChannelId,
  type ChannelRecord,
  checkInlet,
  checkInletKind,
  checkSite,
  compareMaps,
  compareSites,
  deviceTopicOwner,
  type Finding,
  type InletDescription,
  ownerText,
  type Profile,
  type ReachChange,
  RelayError,
  recordsOf,
  rootOwner,
  type SiteChange,
  type SiteDescription,
  type SiteEdit,
  type SiteRecord,
  type Snapshot,
  siteTopics,
  type TopicPicture,
  type TopicUse,
  targetsDiffer,
  withEdit,
} from "@bold-relay/core";
import { checked, parseJson } from "../http-exchange/body.ts";
import { findInletRows } from "../store/inlets.ts";
import {
  findChannels,
  findChannelsOf,
  findProfiles,
  findSite,
  findSites,
  type PreparedSite,
  preparedSite,
} from "../store/model.ts";
import type { Db } from "../store/pool.ts";
import { findTopicStamp, storedTopics } from "./topic-registry.ts";

/** What a description would change, and what is wrong or doubtful about it. */
export interface SitePlan {
  /** That it was compared with; 0: there is no such site. */
  readonly version: number;
  readonly changes: readonly SiteChange[];
  readonly findings: readonly Finding[];
  readonly reach: readonly ReachChange[];
}

export interface CheckedSite {
  readonly plan: SitePlan;
  /** As it goes to the database. */
  readonly prepared: PreparedSite;
  /** What has topics, as they were compared with; see `findTopicStamp`. */
  readonly topics: string;
}

/** What a description is checked for. */
interface CheckFor {
  /** Filters of the service's own topics. */
  readonly reserved: readonly string[];
  /** The sites whose inlets, devices and notifications may be named in findings; null: every one. */
  readonly reach: readonly string[] | null;
}

/** A site as it would be: the whole of it as JSON, or a change of what there is. */
export type SiteSource = { readonly text: string } | { readonly edit: SiteEdit };

/**
 * @param slug that it must have
 * @throws RelayError bad-json, bad-request, depended-on, or not-found for an edit of what is not there
 */
export async function checkSiteChange(
  db: Db,
  slug: string,
  source: SiteSource,
  { reserved, reach }: CheckFor,
): Promise<CheckedSite> {
  const stamp = await findTopicStamp(db);
  const known = await findSite(db, slug);
  const site = checked(siteSchema, bodyOf(slug, source, known?.site ?? null));
  if (site.slug !== slug)
    throw new RelayError("bad-request", { why: `The site is ${slug} in the address and ${site.slug} in the body` });
  // One after the other: the connection may be that of a transaction, which does one thing at a time.
  const profiles = new Map([...(await findProfiles(db))].map(([name, { profile }]) => [name, profile]));
  const { before, after } = ownRecords(known?.site ?? null, site, profiles, await findChannelsOf(db, [slug]));
  const own: Change = { before: snapshotOf(before), after: snapshotOf(after) };
  const whole = async (): Promise<Change> => {
    const others = await findOthers(db, slug);
    return { before: snapshotOf(others, before), after: snapshotOf(others, after) };
  };
  const picture = await storedTopics(db, reserved, [...siteTopics(site, profiles)], slug);
  const inlets = await findInletRows(db);
  const seen = inlets
    .map(({ inlet }) => inlet)
    .filter((inlet) => reach === null || (inlet.site !== null && reach.includes(inlet.site)));
  const ofTeam = (inlet: InletDescription) => inlet.site === null && targetsDiffer(inlet, own.before, own.after);
  const all = seen.some(ofTeam) ? await whole() : own;
  const named = seen.filter(({ site: held }) => held === null || held === slug);
  const plan = {
    version: known?.version ?? 0,
    changes: compareSites(known?.site ?? null, site),
    findings: [
      ...(known ? [] : rootFindings(picture, slug, reach)),
      ...checkSite(site, {
        profiles,
        ownerOf: (topic) => ownerIn(picture, topic, slug, reach),
        ...(known ? { had: siteTopics(known.site, profiles) } : {}),
      }),
      ...lostTargets(seen, slug, own, all),
    ],
    // Both are of the same sites: what other sites have is the same before and after.
    reach: compareMaps(buildReach(all.before, named), buildReach(all.after, named)),
  };
  return { plan, prepared: preparedSite(site), topics: stamp };
}

/** A new site has all topics that begin with its identifier. */
function rootFindings(picture: TopicPicture, slug: string, reach: readonly string[] | null): Finding[] {
  const owner = rootOwner(picture, slug);
  if (!owner) return [];
  const text = `cannot be “${slug}”: topics that begin with ${slug}/ belong to ${ownerText(owner, reach)}. Choose another identifier.`;
  return [{ level: "wrong", at: "slug", text }];
}

interface Change {
  readonly before: Snapshot;
  readonly after: Snapshot;
}

/** What a snapshot is built of. */
interface Described {
  readonly records: readonly ChannelRecord[];
  readonly sites: readonly SiteRecord[];
}

/** The site alone: what a change of it means is nearly always seen there, and other sites may have a hundred thousand channels. */
function ownRecords(
  known: SiteDescription | null,
  site: SiteDescription,
  profiles: ReadonlyMap<string, Profile>,
  records: readonly ChannelRecord[],
): { readonly before: Described; readonly after: Described } {
  const ids = new Map(
    records.map(({ id, site: { slug }, device, slug: channel }) => [`${slug}/${device.slug}/${channel}`, id]),
  );
  // What is not saved yet has no number: any will do that no other channel has.
  let unsaved = 0;
  const idOf = (address: string) => {
    unsaved -= 1;
    return ids.get(address) ?? (unsaved as ChannelId);
  };
  return {
    before: { records, sites: known ? [known] : [] },
    after: { records: recordsOf(site, profiles, idOf), sites: [site] },
  };
}

function snapshotOf(...parts: readonly Described[]): Snapshot {
  return buildSnapshot(
    parts.flatMap(({ records }) => records),
    parts.flatMap(({ sites }) => sites),
  );
}

/** Every site but one. */
async function findOthers(db: Db, slug: string): Promise<Described> {
  return {
    records: (await findChannels(db)).filter((record) => record.site.slug !== slug),
    sites: (await findSites(db)).filter((one) => one.slug !== slug),
  };
}

function bodyOf(slug: string, source: SiteSource, known: SiteDescription | null): unknown {
  if ("text" in source) return parseJson(source.text);
  if (!known) throw new RelayError("not-found", { what: `The site ${slug}` });
  return withEdit(known, source.edit);
}

/**
 * What inlets name and would find no more. It keeps no site from being saved: the routes may be changed next.
 *
 * @param all the same change among all sites, where an inlet of the whole team needs it
 */
function lostTargets(inlets: readonly InletDescription[], slug: string, own: Change, all: Change): Finding[] {
  return inlets.flatMap((inlet) => {
    if (inlet.site === null && targetsDiffer(inlet, own.before, own.after))
      return newFindings(inlet, (snapshot) => checkInlet(inlet, snapshot, inlets), all);
    // Whatever else an inlet of other sites names stays as it is; its topics may meet those of this site.
    const check = inlet.site === slug ? checkInlet : checkInletKind;
    return newFindings(inlet, (snapshot) => check(inlet, snapshot, inlets), own);
  });
}

/** What is wrong with an inlet only after the change. */
function newFindings(
  { slug }: InletDescription,
  check: (snapshot: Snapshot) => Finding[],
  { before, after }: Change,
): Finding[] {
  const known = new Set(check(before).map(({ at, text }) => `${at} ${text}`));
  return check(after)
    .filter(({ level, at, text }) => level === "wrong" && !known.has(`${at} ${text}`))
    .map(({ at, text }): Finding => ({ level: "doubt", at: `inlets/${slug}/${at}`, text }));
}

/** What would be wrong or doubtful at these sites with a profile as it would be. */
export async function checkProfileAt(
  db: Db,
  profile: Profile,
  slugs: readonly string[],
  reserved: readonly string[],
): Promise<{ readonly findings: Finding[]; readonly topics: string }> {
  const topics = await findTopicStamp(db);
  const profiles = await findProfiles(db);
  const bySlug = new Map([...profiles].map(([name, known]) => [name, known.profile]));
  bySlug.set(profile.slug, profile);
  const findings: Finding[] = [];
  const known = [];
  for (const slug of slugs) known.push((await findSite(db, slug)) ?? []);
  const sites = known.flat().map(({ site }) => site);
  const picture = await storedTopics(
    db,
    reserved,
    sites.flatMap((site) => [...siteTopics(site, bySlug)]),
  );
  const before = new Map([...profiles].map(([name, one]) => [name, one.profile]));
  // Devices of several sites may come to have one topic by the very change: each is compared with the others as they would be.
  const taken = new Map<string, string>();
  for (const site of sites) {
    const own = siteTopics(site, bySlug);
    const ownerOf = (topic: string) => ownerIn(picture, topic, site.slug, null) ?? taken.get(topic) ?? null;
    findings.push(...checkSite(site, { profiles: bySlug, ownerOf, had: siteTopics(site, before) }));
    for (const topic of own) if (!taken.has(topic)) taken.set(topic, `the site ${site.slug}`);
  }
  return { findings, topics };
}

/** @param topic may be the filter of a topic that differs with each message */
function ownerIn(picture: TopicPicture, topic: string, site: string, reach: readonly string[] | null): string | null {
  const owner = deviceTopicOwner(picture, site, topic, reach);
  if (!owner) return null;
  // A device is told by its address, as where it is of the site itself.
  const isKnown = reach === null || reach.includes(owner.site ?? "");
  return owner.kind === "device" && isKnown ? owner.name : ownerText(owner, reach);
}

/** The address of a device that a topic belongs to. */
export function deviceOf(use: TopicUse): string | null {
  if (use.here) return use.here.device;
  const [channel] = [use.is, use.done, use.do, use.ask].flat();
  return channel?.device.address ?? null;
}
