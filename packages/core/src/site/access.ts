/** What a device needs of the broker, and nothing beyond: to hear its own commands, to say its own words. */
import { type ChannelEntry, fillTopic } from "./entry.ts";

export interface DeviceAccess {
  /** Topics that it reads. */
  readonly reads: readonly string[];
  /** Topics that it writes; where one topic serves both ways it stands in both lists. */
  readonly writes: readonly string[];
}

/** @param channels of one device, all of them */
export function accessOf(channels: readonly ChannelEntry[]): DeviceAccess {
  const reads = new Set<string>();
  const writes = new Set<string>();
  for (const channel of channels) {
    const { topics, patterns } = channel;
    for (const topic of [topics.do, topics.ask]) if (topic !== null) reads.add(topic);
    for (const topic of [topics.done, topics.is]) if (topic !== null) writes.add(topic);
    if (patterns.here !== null) writes.add(fillTopic(patterns.here, channel));
  }
  return { reads: [...reads].sort(), writes: [...writes].sort() };
}

/**
 * As the access file of a mosquitto broker has it (mosquitto.conf(5), acl_file).
 *
 * @param user the device's user name at the broker
 */
export function accessLines(user: string, { reads, writes }: DeviceAccess): string[] {
  const both = reads.filter((topic) => writes.includes(topic));
  const only = (topics: readonly string[]) => topics.filter((topic) => !both.includes(topic));
  return [
    `user ${user}`,
    ...both.map((topic) => `topic readwrite ${topic}`),
    ...only(reads).map((topic) => `topic read ${topic}`),
    ...only(writes).map((topic) => `topic write ${topic}`),
  ];
}
