/**
 * Who may write to which topic, and who may listen where. A topic belongs to a device, to a topic inlet, to a notification, to the
 * service itself, or to a site by its first level; or to nobody. Pure: the picture of all of them comes in.
 *
 * valid:   an inlet of alder-row listens on `alder-row/buttons/+`, or on `buttons/+` that nobody else has
 * invalid: it listens on `glasshouse/+/+/is` (another site's states), on `+/+/+/is` (any site's), on a notification's topic
 */

import type { NotificationDescription } from "../notification/notification.ts";
import { covers, firstLevel, overlap } from "./filter.ts";
import { usedBy, useOf } from "./in-topic.ts";
import type { Snapshot } from "./snapshot.ts";
import type { TopicUse } from "./snapshot-topics.ts";

/** A topic inlet, as far as topics go. */
export interface TopicListener {
  readonly slug: string;
  /** null: of the whole team. */
  readonly site: string | null;
  readonly filters: readonly string[];
}

/** A notification that is published. */
export interface TopicTeller {
  readonly slug: string;
  readonly site: string | null;
  readonly topic: string;
}

/** Where a notification is published; nothing where it goes elsewhere. */
export function topicTeller({ slug, site, to }: Pick<NotificationDescription, "slug" | "site" | "to">): TopicTeller[] {
  return "topic" in to ? [{ slug, site, topic: to.topic }] : [];
}

export interface TopicPicture {
  readonly snapshot: Snapshot;
  readonly listeners: readonly TopicListener[];
  readonly tellers: readonly TopicTeller[];
  /** Filters of topics that the service keeps for itself. */
  readonly reserved: readonly string[];
}

export interface TopicOwner {
  readonly kind: "device" | "inlet" | "notification" | "service" | "site";
  /** The device's address, the identifier, or the site's slug. */
  readonly name: string;
  readonly site: string | null;
}

/** Longer than any device needs, bytes of UTF-8; the protocol ends at 65 535. */
const LONGEST_TOPIC = 1_024;

/**
 * What is wrong with a topic to publish on (MQTT 5, 4.7.1 and 4.7.3).
 *
 * @returns null when nothing is
 */
export function topicFormProblem(topic: string): string | null {
  if (topic === "") return "A topic is empty";
  if (topic.length > LONGEST_TOPIC) return `A topic is longer than ${LONGEST_TOPIC} characters`;
  if (topic.startsWith("$")) return `“${shown(topic)}” begins with $, which is the broker's own`;
  if (/[+#]/.test(topic)) return `“${shown(topic)}” holds a wildcard`;
  return /[\p{Cc}\p{Cs}\p{Noncharacter_Code_Point}]/u.test(topic) ? "A topic holds a control character" : null;
}

function shown(topic: string): string {
  return topic.slice(0, 80).replace(/[\p{Cc}\p{Cs}]/gu, "�");
}

/** Everything that a topic belongs to; nothing: nobody. */
export function topicOwners(picture: TopicPicture, topic: string): TopicOwner[] {
  const { snapshot, listeners, tellers, reserved } = picture;
  const owners = ownersByModel(snapshot, topic);
  if (reserved.some((filter) => covers(filter, topic))) owners.push({ kind: "service", name: topic, site: null });
  for (const { slug, site, filters } of listeners) {
    if (filters.some((filter) => covers(filter, topic))) owners.push({ kind: "inlet", name: slug, site });
  }
  for (const { slug, site, topic: told } of tellers) {
    if (told === topic) owners.push({ kind: "notification", name: slug, site });
  }
  return owners;
}

function ownersByModel(snapshot: Snapshot, topic: string): TopicOwner[] {
  const owners: TopicOwner[] = [];
  const use = useOf(snapshot, topic);
  for (const device of use ? devicesOf(use) : []) owners.push({ kind: "device", name: device, site: siteOf(device) });
  const root = firstLevel(topic);
  if (rootsOf(snapshot).sites.has(root)) owners.push({ kind: "site", name: root, site: root });
  return owners;
}

/** What is written, and on whose behalf. */
export type TopicWriting =
  | { readonly by: "hand"; readonly sites: readonly string[] | null }
  | { readonly by: "test request" | "answer" | "notification"; readonly slug: string; readonly site: string | null };

/**
 * Why this may not be published there. Lock-outs are looked at by whoever publishes.
 *
 * @returns null when nothing speaks against it
 */
export function publishProblem(picture: TopicPicture, writing: TopicWriting, topic: string): string | null {
  const form = topicFormProblem(topic);
  if (form !== null) return form;
  const owners = topicOwners(picture, topic);
  const sites = writing.by === "hand" ? writing.sites : writing.site === null ? null : [writing.site];
  const foreign = owners.find(
    ({ kind, site }) => kind === "service" || (sites !== null && (site === null || !sites.includes(site))),
  );
  if (foreign) return `${topic} belongs to ${ownerText(foreign, sites)}`;
  if (writing.by === "hand")
    return sites === null || owners.length > 0 ? null : `${topic} belongs to none of ${sites.join(", ")}`;
  const own = owners.find((owner) => isHeard(owner, writing));
  if (own) return `${topic} belongs to ${ownerText(own, sites)}, which would act on it`;
  if (writing.by === "test request" && !owners.some(({ kind, name }) => kind === "inlet" && name === writing.slug))
    return `The inlet ${writing.slug} does not listen on ${topic}`;
  return null;
}

/** Whether somebody would take it for what it is not. A test request is meant for its inlet, a notification for its topic. */
function isHeard({ kind, name }: TopicOwner, { by, slug }: Exclude<TopicWriting, { by: "hand" }>): boolean {
  if (kind === "inlet") return by !== "test request" || name !== slug;
  return kind === "device" || (kind === "notification" && by !== "notification");
}

/**
 * Why an inlet may not listen there.
 *
 * @param inlet its own filters in the picture do not count
 * @param filter an MQTT topic filter
 */
export function listenProblem(
  picture: TopicPicture,
  inlet: Pick<TopicListener, "slug" | "site">,
  filter: string,
): string | null {
  const root = firstLevel(filter);
  const isOpen = root === "+" || root === "#";
  if (isOpen && inlet.site !== null) return "begins with a wildcard: an inlet of one site names the first level";
  const owner = listenedOwner(picture, inlet, filter);
  return owner && `overlaps what belongs to ${ownerText(owner, sitesOf(inlet.site))}`;
}

function listenedOwner(
  { snapshot, listeners, tellers, reserved }: TopicPicture,
  { slug: own, site }: Pick<TopicListener, "slug" | "site">,
  filter: string,
): TopicOwner | null {
  const root = firstLevel(filter);
  const { sites, elsewhere } = rootsOf(snapshot);
  const isOpen = root === "+" || root === "#";
  // An inlet of the whole team that listens to everything is handed nothing of the service's own: see `mayHear`.
  if (!isOpen && reserved.some((one) => overlap(one, filter))) return { kind: "service", name: filter, site: null };
  if (site !== null && root !== site && sites.has(root)) return { kind: "site", name: root, site: root };
  const device = site === null ? undefined : elsewhere.find((one) => one.site !== site && overlap(one.topic, filter));
  if (device) return { kind: "device", name: device.device, site: device.site };
  const told = tellers.find(({ topic }) => overlap(topic, filter));
  if (told) return { kind: "notification", name: told.slug, site: told.site };
  const other = listeners.find(
    (one) => one.slug !== own && one.site !== site && one.filters.some((each) => overlap(each, filter)),
  );
  return other ? { kind: "inlet", name: other.slug, site: other.site } : null;
}

/**
 * What else has a topic that a device of a site is to have: it would hear what is not meant for it, or write where others listen. Devices of
 * the site itself are left to `checkSite`; inlets of the site, and of the whole team, may hear its devices.
 *
 * @param topic or a filter with +, where it differs with each message
 * @param reach sites of whoever describes the device: below their identifiers they may take what is free; null: every site
 * @returns null when nobody has
 */
export function deviceTopicOwner(
  picture: TopicPicture,
  site: string,
  topic: string,
  reach: readonly string[] | null,
): TopicOwner | null {
  const { snapshot, listeners, tellers, reserved } = picture;
  if (reserved.some((filter) => overlap(filter, topic))) return { kind: "service", name: topic, site: null };
  const root = firstLevel(topic);
  const isForeign = root !== site && reach !== null && !reach.includes(root);
  if (isForeign && rootsOf(snapshot).sites.has(root)) return { kind: "site", name: root, site: root };
  const use = usedBy(snapshot, topic, (one) => [...devicesOf(one)].some((device) => siteOf(device) !== site));
  const device = use && [...devicesOf(use)].find((one) => siteOf(one) !== site);
  if (device) return { kind: "device", name: device, site: siteOf(device) };
  const told = tellers.find((one) => overlap(one.topic, topic));
  if (told) return { kind: "notification", name: told.slug, site: told.site };
  const inlet = listeners.find(
    (one) => one.site !== null && one.site !== site && one.filters.some((each) => overlap(each, topic)),
  );
  return inlet ? { kind: "inlet", name: inlet.slug, site: inlet.site } : null;
}

/**
 * What has topics that begin with the identifier of a site that is to be added: first come, first served.
 *
 * @returns null when nothing has
 */
export function rootOwner({ snapshot, listeners, tellers }: TopicPicture, site: string): TopicOwner | null {
  const isBelow = (topic: string) => firstLevel(topic) === site;
  const device = rootsOf(snapshot).elsewhere.find(({ topic }) => isBelow(topic));
  if (device) return { kind: "device", name: device.device, site: device.site };
  const told = tellers.find(({ topic }) => isBelow(topic));
  if (told) return { kind: "notification", name: told.slug, site: told.site };
  const inlet = listeners.find((one) => one.site !== null && one.filters.some(isBelow));
  return inlet ? { kind: "inlet", name: inlet.slug, site: inlet.site } : null;
}

/** Whether what came on a topic may be taken by an inlet: the model may have changed since it was saved. */
export function mayHear(
  { snapshot, tellers, reserved }: TopicPicture,
  { site }: Pick<TopicListener, "site">,
  topic: string,
): boolean {
  if (reserved.some((filter) => covers(filter, topic)) || tellers.some((one) => one.topic === topic)) return false;
  return site === null || ownersByModel(snapshot, topic).every((owner) => owner.site === site);
}

/** The topic of a route as a filter: a hole stands for one level. */
export function routeFilter(topic: string): string {
  return topic.replace(/\{[a-zA-Z]\w*\}/g, "+");
}

/**
 * An owner in words. Who may not know of it learns that there is one, and no name.
 *
 * @param sites of which whoever reads it may know; null: of every site
 */
export function ownerText({ kind, name, site }: TopicOwner, sites: readonly string[] | null): string {
  if (kind === "service") return "the service itself";
  if (sites !== null && (site === null || !sites.includes(site)))
    return site === null ? "the whole team" : "another site";
  if (kind === "site" || kind === "device") return `the ${kind} ${name}`;
  return `the ${kind} ${name}${site === null ? "" : ` of ${site}`}`;
}

function sitesOf(site: string | null): readonly string[] | null {
  return site === null ? null : [site];
}

function siteOf(device: string): string {
  return firstLevel(device);
}

function devicesOf({ do: told, ask, done, is, here }: TopicUse): Set<string> {
  const devices = new Set([...told, ...ask, ...done, ...is].map(({ device }) => device.address));
  if (here) devices.add(here.device);
  return devices;
}

interface Roots {
  readonly sites: ReadonlySet<string>;
  /** Topics of devices that do not begin with their site. */
  readonly elsewhere: readonly { readonly topic: string; readonly site: string; readonly device: string }[];
}

const knownRoots = new WeakMap<Snapshot, Roots>();

/** Once for each snapshot: it is asked for with every message at a topic inlet. */
function rootsOf(snapshot: Snapshot): Roots {
  const known = knownRoots.get(snapshot);
  if (known) return known;
  const sites = new Set(snapshot.sites.map(({ slug }) => slug));
  const elsewhere = [...snapshot.byTopic].flatMap(([topic, use]) =>
    [...devicesOf(use)].flatMap((device) => {
      const site = siteOf(device);
      return firstLevel(topic) === site ? [] : [{ topic, site, device }];
    }),
  );
  const roots = { sites, elsewhere };
  knownRoots.set(snapshot, roots);
  return roots;
}
