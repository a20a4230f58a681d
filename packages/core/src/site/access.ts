/** What a device needs of the broker, and nothing beyond: to hear its own commands, to say its own words. */
import { type ChannelEntry, commandTopicsOf, fillTopic } from "./entry.ts";
import { anyInTopic } from "./in-topic.ts";

export interface DeviceAccess {
  /** Topics that it reads. */
  readonly reads: readonly string[];
  /** Topics that it writes; where one topic serves both ways it stands in both lists. */
  readonly writes: readonly string[];
  /**
   * Filters with wildcards under which it may subscribe beside its topics: they cover topics of its own alone. Whatever else should match
   * is not delivered to it.
   */
  readonly filters: readonly string[];
}

/** @param channels of one device, all of them */
export function accessOf(channels: readonly ChannelEntry[]): DeviceAccess {
  const distinct = (all: readonly (string | null)[]) => [...new Set(all.flatMap((one) => one ?? []))].sort();
  return {
    reads: distinct(channels.flatMap((channel) => [...commandTopicsOf(channel), channel.topics.ask])),
    writes: distinct(channels.flatMap((channel) => [channel.topics.done, channel.topics.is, presenceTopic(channel)])),
    filters: distinct(channels.flatMap(ownFilters)),
  };
}

function presenceTopic(channel: ChannelEntry): string | null {
  const { here } = channel.patterns;
  return here === null ? null : fillTopic(here, channel);
}

function ownFilters(channel: ChannelEntry): string[] {
  const { topics, patterns } = channel;
  const patternsRead = [
    topics.do === null ? null : patterns.do,
    topics.stop === null ? null : (patterns.stop ?? null),
    topics.ask === null ? null : (patterns.ask ?? null),
  ];
  return patternsRead.flatMap((pattern) => filtersOf(pattern, channel));
}

/**
 * How boards subscribe to all of their channels at once: with + in place of the channel, or with # below the level that names the device.
 *
 * @example filtersOf("{site}/{device}/{channel}/do", finch/porch) // → ["alder-row/finch/+/do", "alder-row/finch/#"]
 */
function filtersOf(pattern: string | null, channel: ChannelEntry): string[] {
  const levels = pattern?.split("/") ?? [];
  const own = levels.indexOf("{device}");
  if (own < 0) return [];
  const filled = (some: readonly string[]) => anyInTopic(fillTopic(some.join("/"), channel));
  const isChannel = (level: string) => level === "{channel}" || level === "{index}";
  const below = own < levels.length - 1 ? [`${filled(levels.slice(0, own + 1))}/#`] : [];
  return levels.some(isChannel) ? [filled(levels.map((level) => (isChannel(level) ? "+" : level))), ...below] : below;
}

/**
 * As the access file of a mosquitto broker has it (mosquitto.conf(5), acl_file).
 *
 * @param user the device's user name at the broker
 */
export function accessLines(user: string, { reads, writes }: Pick<DeviceAccess, "reads" | "writes">): string[] {
  const both = reads.filter((topic) => writes.includes(topic));
  const only = (topics: readonly string[]) => topics.filter((topic) => !both.includes(topic));
  return [
    `user ${user}`,
    ...both.map((topic) => `topic readwrite ${topic}`),
    ...only(reads).map((topic) => `topic read ${topic}`),
    ...only(writes).map((topic) => `topic write ${topic}`),
  ];
}
