/** What topics are to us, and what is listened to at the broker. */
import { disjointFilters } from "./disjoint-filters.ts";
import { type ChannelEntry, commandTopicsOf, fillTopic } from "./entry.ts";
import { shapesOf, type TopicShape } from "./in-topic.ts";
import type { Profile } from "./model.ts";
import { remembered } from "./remembered.ts";
import { STEP } from "./snapshot-names.ts";

/**
 * What a topic is to us: the channels that have it as their command, question, acknowledgement or report topic, and the device
 * whose presence it is. One topic may be several. Several channels share a topic where the payload names the channel, or its
 * answers come by turns.
 */
export interface TopicUse {
  readonly do: readonly ChannelEntry[];
  readonly ask: readonly ChannelEntry[];
  readonly done: readonly ChannelEntry[];
  readonly is: readonly ChannelEntry[];
  /** The device's address. */
  readonly here: { readonly device: string; readonly profile: Profile } | null;
}

/** What is listened to at the broker. */
export interface TopicFilters {
  /** MQTT filters that cover every `done`, `is` and `here` topic, and `do` where others are listened for. */
  readonly filters: readonly string[];
  /** MQTT filters that cover every `do` and `stop` topic. */
  readonly doFilters: readonly string[];
}

/** What is wanted of one site, before filters that overlap with those of others are replaced. */
interface SiteFilters {
  readonly heard: ReadonlySet<string>;
  readonly commands: ReadonlySet<string>;
}

export interface TopicsInSnapshot extends TopicFilters {
  readonly byTopic: ReadonlyMap<string, TopicUse>;
  /** Of topics that differ with each message. */
  readonly shapes: readonly TopicShape[];
  /** By the slug of the site. */
  readonly filtersBySite: ReadonlyMap<string, SiteFilters>;
}

/**
 * The filters of some sites only, as a snapshot has them of all. Costs nothing a channel, unless filters overlap.
 *
 * @param sites slugs
 */
export function filtersOfSites(
  { filtersBySite, channels }: Pick<TopicsInSnapshot, "filtersBySite"> & { readonly channels: readonly ChannelEntry[] },
  sites: ReadonlySet<string>,
): TopicFilters {
  const own = [...sites].flatMap((site) => filtersBySite.get(site) ?? []);
  return together(own, () => channels.filter(({ site }) => sites.has(site.slug)).flatMap(heardTopicsOf));
}

const NO_USE: TopicUse = { do: [], ask: [], done: [], is: [], here: null };

export function* topicsOf(channels: readonly ChannelEntry[]): Generator<void, TopicsInSnapshot> {
  const byTopic = new Map<string, TopicUse>();
  const bySite = new Map<string, Gathering>();
  const put = (topic: string | null, role: "done" | "is" | "do" | "ask", channel: ChannelEntry) => {
    if (topic === null) return;
    const known = byTopic.get(topic) ?? NO_USE;
    byTopic.set(topic, { ...known, [role]: [...known[role], channel] });
  };
  for (const [index, channel] of channels.entries()) {
    if (index % STEP === 0) yield;
    const { profile, topics, device, site } = channel;
    const gathered = bySite.get(site.slug) ?? new Gathering();
    bySite.set(site.slug, gathered);
    put(topics.is, "is", channel);
    put(topics.done, "done", channel);
    for (const topic of commandTopicsOf(channel)) put(topic, "do", channel);
    put(topics.ask, "ask", channel);
    const here = gathered.add(channel);
    if (here !== null)
      byTopic.set(here, { ...(byTopic.get(here) ?? NO_USE), here: { device: device.address, profile } });
  }
  yield;
  const heardTopics = () => [...byTopic].flatMap(([topic, use]) => (isHeard(use) ? [topic] : []));
  return {
    byTopic,
    shapes: shapesOf(byTopic.keys()),
    filtersBySite: bySite,
    ...together([...bySite.values()], heardTopics),
  };
}

/** @param topics all that must be heard; asked for only where filters overlap */
function together(sites: readonly SiteFilters[], topics: () => readonly string[]): TopicFilters {
  const heard = new Set(sites.flatMap((site) => [...site.heard]));
  const commands = new Set(sites.flatMap((site) => [...site.commands]));
  return { filters: disjointFilters([...heard], topics), doFilters: [...commands] };
}

/** What is listened to of the channels of a site, put together one by one. */
class Gathering implements SiteFilters {
  readonly heard = new Set<string>();
  readonly commands = new Set<string>();
  private readonly devices = new Set<string>();

  /** @returns the presence topic of its device, with the first channel that it has */
  add(channel: ChannelEntry): string | null {
    const { profile, patterns, topics, site, device } = channel;
    listen(this.commands, patterns.do, topics.do, site.slug);
    listen(this.commands, patterns.stop ?? null, topics.stop, site.slug);
    listen(this.heard, patterns.done, topics.done, site.slug);
    listen(this.heard, patterns.is, topics.is, site.slug);
    // Of this device only: on the others' command topics the broker shall still tell when nobody listens.
    if (profile.hearOthers)
      for (const role of ["do", "stop"] as const)
        listen(this.heard, patterns[role]?.replaceAll("{device}", device.slug) ?? null, topics[role], site.slug);
    // Its presence is the same for all channels of a device.
    if (this.devices.has(device.address) || patterns.here === null) return null;
    this.devices.add(device.address);
    const here = fillTopic(patterns.here, channel);
    listen(this.heard, patterns.here, here, site.slug);
    return here;
  }
}

function listen(into: Set<string>, pattern: string | null, topic: string | null, site: string): void {
  if (pattern !== null && topic !== null) into.add(filterOf(pattern, topic, site));
}

function heardTopicsOf(channel: ChannelEntry): string[] {
  const { profile, patterns, topics } = channel;
  const here = patterns.here === null ? null : fillTopic(patterns.here, channel);
  const commands = profile.hearOthers ? commandTopicsOf(channel) : [];
  return [topics.done, topics.is, here, ...commands].flatMap((topic) => topic ?? []);
}

/**
 * `{site}/{device}/{channel}/is` → `alder-row/+/+/is`: one subscription a site instead of one a channel. A pattern without the
 * site in it would cover what belongs to others: then it is the topic itself.
 */
function filterOf(pattern: string, topic: string, site: string): string {
  return pattern.includes("{site}") ? filterFor(`${site} ${pattern}`) : topic;
}

const filterFor = remembered((siteAndPattern: string) => {
  const gap = siteAndPattern.indexOf(" ");
  const levels = siteAndPattern
    .slice(gap + 1)
    .replaceAll("{site}", siteAndPattern.slice(0, gap))
    .split("/");
  return levels.map((level) => (level.includes("{") ? "+" : level)).join("/");
});

function isHeard(use: TopicUse): boolean {
  const others = use.do.some(({ profile }) => profile.hearOthers === true);
  return use.done.length > 0 || use.is.length > 0 || use.here !== null || others;
}
