/**
 * Who may write to which topic, and who may listen where. A topic belongs to a device, to a topic inlet, to a notification, to the
 * service itself, or to a site by its first level; or to nobody. Pure: the picture of all of them comes in.
 *
 * valid:   an inlet of alder-row listens on `alder-row/buttons/+`, or on `buttons/+` that nobody else has
 * invalid: it listens on `glasshouse/+/+/is` (another site's states), on `+/+/+/is` (any site's), on a notification's topic
 */

import { covers, overlap } from "./filter.ts";
import { useOf } from "./in-topic.ts";
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

export interface TopicPicture {
  readonly snapshot: Snapshot;
  readonly listeners: readonly TopicListener[];
  readonly tellers: readonly TopicTeller[];
  /** Topics that the service keeps for itself. */
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
  if (reserved.includes(topic)) owners.push({ kind: "service", name: topic, site: null });
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
  for (const device of use ? devicesOf(use) : [])
    owners.push({ kind: "device", name: device, site: device.split("/")[0] ?? null });
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
  if (foreign) return `${topic} belongs to ${ownerText(foreign)}`;
  if (writing.by === "hand")
    return sites === null || owners.length > 0 ? null : `${topic} belongs to none of ${sites.join(", ")}`;
  const own = owners.find((owner) => isHeard(owner, writing));
  if (own) return `${topic} belongs to ${ownerText(own)}, which would act on it`;
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
  { snapshot, listeners, tellers }: TopicPicture,
  inlet: Pick<TopicListener, "slug" | "site">,
  filter: string,
): string | null {
  const root = firstLevel(filter);
  const isOpen = root === "+" || root === "#";
  if (isOpen && inlet.site !== null) return "begins with a wildcard: an inlet of one site names the first level";
  const { sites, elsewhere } = rootsOf(snapshot);
  if (inlet.site !== null && sites.has(root) && root !== inlet.site) return `belongs to the site ${root}`;
  const device = elsewhere.find(({ topic, site }) => site !== inlet.site && overlap(topic, filter));
  if (device && inlet.site !== null) return `overlaps ${device.topic}, which belongs to a device of ${device.site}`;
  const told = tellers.find(({ topic }) => overlap(topic, filter));
  if (told) return `overlaps ${told.topic}, on which the notification ${told.slug} is published`;
  const other = listeners.find(
    ({ slug, site, filters }) =>
      slug !== inlet.slug && site !== inlet.site && filters.some((one) => overlap(one, filter)),
  );
  return other ? `overlaps the topics of the inlet ${other.slug}` : null;
}

/** Whether what came on a topic may be taken by an inlet: the model may have changed since it was saved. */
export function mayHear(
  { snapshot, tellers, reserved }: TopicPicture,
  { site }: Pick<TopicListener, "site">,
  topic: string,
): boolean {
  if (reserved.includes(topic) || tellers.some((one) => one.topic === topic)) return false;
  return site === null || ownersByModel(snapshot, topic).every((owner) => owner.site === site);
}

/** The topic of a route as a filter: a hole stands for one level. */
export function routeFilter(topic: string): string {
  return topic.replace(/\{[a-zA-Z]\w*\}/g, "+");
}

function ownerText({ kind, name, site }: TopicOwner): string {
  switch (kind) {
    case "site":
      return `the site ${name}`;
    case "service":
      return "the service itself";
    case "device":
      return `the device ${name}`;
    case "inlet":
    case "notification":
      return `the ${kind} ${name}${site === null ? "" : ` of ${site}`}`;
  }
}

function firstLevel(topic: string): string {
  const end = topic.indexOf("/");
  return end < 0 ? topic : topic.slice(0, end);
}

function devicesOf({ do: told, ask, done, is, here }: TopicUse): Set<string> {
  const devices = new Set([...told, ...ask, ...done, ...is].map(({ device }) => device.address));
  if (here) devices.add(here.device);
  return devices;
}

interface Roots {
  readonly sites: ReadonlySet<string>;
  /** Topics of devices that do not begin with their site. */
  readonly elsewhere: readonly { readonly topic: string; readonly site: string }[];
}

const knownRoots = new WeakMap<Snapshot, Roots>();

/** Once for each snapshot: it is asked for with every message at a topic inlet. */
function rootsOf(snapshot: Snapshot): Roots {
  const known = knownRoots.get(snapshot);
  if (known) return known;
  const sites = new Set(snapshot.sites.map(({ slug }) => slug));
  const elsewhere = [...snapshot.byTopic].flatMap(([topic, use]) =>
    [...devicesOf(use)].flatMap((device) => {
      const site = device.split("/")[0] ?? "";
      return firstLevel(topic) === site ? [] : [{ topic, site }];
    }),
  );
  const roots = { sites, elsewhere };
  knownRoots.set(snapshot, roots);
  return roots;
}
