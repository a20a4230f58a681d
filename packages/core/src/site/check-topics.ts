/**
 * Whose the topics of a site's devices are, compared as they are written and heard: after substitution, and by overlap where a level
 * differs with each message (MQTT 5, 4.7). A command topic has one owner: whoever shares one hears what is meant for another.
 */
import { kindOf } from "../channel/index.ts";
import type { ChannelKind } from "../channel/kind.ts";
import type { ChannelId } from "../id.ts";
import { namesChannelIn } from "./check-payload.ts";
import { type ChannelRecord, entryOf, fillTopic, patternsOf, placesIn } from "./entry.ts";
import type { Finding } from "./finding.ts";
import { anyInTopic, overlapping, shapesOf, type TopicShape } from "./in-topic.ts";
import type { ChannelDescription, DeviceDescription, Profile, SiteDescription, TopicPatterns } from "./model.ts";
import { recordsOf } from "./records.ts";
import { commandsOf, stateQueryOf } from "./same-output.ts";
import type { Writing } from "./writing.ts";

/** What stands around the site. */
export interface Surroundings {
  readonly profiles: ReadonlyMap<string, Profile>;
  /** Who else has a topic, or one that a filter covers, in words: "glasshouse/vent", "another site"; null: nobody. */
  readonly ownerOf: (topic: string) => string | null;
  /** Topics that the site has already: what somebody else has taken since keeps it from nothing. Default: none. */
  readonly had?: ReadonlySet<string> | undefined;
}

type Role = keyof TopicPatterns;
type Problem = Pick<Finding, "at" | "text"> & Partial<Pick<Finding, "level">>;

/** One topic of one channel. */
interface TopicClaim {
  /** As it is written; a filter where a level differs with each message. */
  readonly topic: string;
  readonly role: Role;
  /** "finch/porch" */
  readonly channel: string;
  readonly device: string;
  /** Whether messages of this channel use it: an input gets no commands. */
  readonly isUsed: boolean;
  /** Whether payloads there name their channel. */
  readonly isNamed: boolean;
}

export function topicFindings(site: SiteDescription, { profiles, ownerOf, had }: Surroundings): Finding[] {
  const claims = devicesOf(site).flatMap((device) => {
    const profile = profiles.get(device.profile);
    return profile ? claimsOf(site, device, profile) : [];
  });
  const among = new ClaimIndex(claims);
  const problems = claims.flatMap((claim) => problemOf(site, claim, among, { ownerOf, had }) ?? []);
  const shared = new Set(claims.filter((claim) => isSharedBefore(claim, among)).map(({ device }) => device));
  problems.push(...sameMessages(recordsOf(site, profiles, unsaved), shared));
  const texts = new Map(problems.map((problem) => [`${problem.at} ${problem.text}`, problem]));
  return [...texts.values()].map(({ level = "wrong", at, text }) => ({ level, at, text }));
}

/** What a description is compared by has no numbers so far. */
function unsaved(): ChannelId {
  return 0 as ChannelId;
}

function isSharedBefore(claim: TopicClaim, among: ClaimIndex): boolean {
  return (
    claim.isUsed && WRITTEN.has(claim.role) && among.before(claim).some((other) => other.channel !== claim.channel)
  );
}

/**
 * Channels on one topic whose messages name them, and are the same all the same: by their words, say, or by a number of a board that the
 * payload does not hold.
 *
 * @param devices those whose channels share command topics
 */
function sameMessages(records: readonly ChannelRecord[], devices: ReadonlySet<string>): Problem[] {
  const [commands, questions] = [new Map<string, string>(), new Map<string, string>()];
  const places = placesIn(records);
  return records.flatMap((record, at): Problem[] => {
    const { slug, device } = record;
    if (!devices.has(device.slug)) return [];
    const entry = entryOf(record, places[at] ?? 0);
    const own = commandsOf(entry, true).map(messageText);
    const asked = [stateQueryOf(entry) ?? []].flat().map(messageText);
    const known = [
      ...own.flatMap((one) => [commands.get(one), questions.get(one)]),
      ...asked.map((one) => commands.get(one)),
    ];
    const other = known.find((one) => one !== undefined && one !== slug);
    for (const one of own) commands.set(one, commands.get(one) ?? slug);
    for (const one of asked) questions.set(one, questions.get(one) ?? slug);
    if (other === undefined) return [];
    const text = `would be written the same message as ${other}. Give it another index, or other words.`;
    return [{ at: `devices/${device.slug}/${slug}`, text }];
  });
}

function messageText({ topic, payload }: Writing): string {
  return `${topic} ${payload.join(" ")}`;
}

/** Every topic of its devices. */
export function siteTopics(site: SiteDescription, profiles: ReadonlyMap<string, Profile>): Set<string> {
  const topics = new Set<string>();
  for (const device of devicesOf(site)) {
    const profile = profiles.get(device.profile);
    if (profile) for (const { topic } of claimsOf(site, device, profile)) topics.add(topic);
  }
  return topics;
}

function devicesOf(site: SiteDescription): DeviceDescription[] {
  return site.rooms.flatMap((room) => room.devices);
}

function problemOf(
  site: SiteDescription,
  claim: TopicClaim,
  among: ClaimIndex,
  { ownerOf, had }: Pick<Surroundings, "ownerOf" | "had">,
): Problem | null {
  const { topic, device, channel, role } = claim;
  // Each pair is told of once, by the later one.
  const before = among.before(claim).filter((other) => other.channel !== channel);
  const neighbour = before.find((other) => other.device !== device);
  const owner = neighbour ? `${site.slug}/${neighbour.device}` : ownerOf(topic);
  if (owner !== null) {
    const level = !neighbour && had?.has(topic) ? "doubt" : "wrong";
    return { level, at: `devices/${device}`, text: `uses the topic ${topic}, which belongs to ${owner}.` };
  }
  const sibling = before.find((other) => isMixedUp(claim, other));
  if (!sibling) return null;
  const name = sibling.channel.slice(device.length + 1);
  const what = sibling.role === role ? `its ${role} topic` : `its ${role} topic ${topic}`;
  const whose = sibling.role === role ? name : `the ${sibling.role} topic of ${name}`;
  const text = `shares ${what} with ${whose}, and the payload does not name the channel. Put {channel} or {index} into the topic or the payload, or give each channel a topic of its own.`;
  return { at: `devices/${channel}`, text };
}

const WRITTEN: ReadonlySet<Role> = new Set(["do", "stop"]);

/** Whether a message of one channel of a device could be taken for one of the other. Acknowledgements may come by turns. */
function isMixedUp(one: TopicClaim, other: TopicClaim): boolean {
  if (!one.isUsed || !other.isUsed || (one.isNamed && other.isNamed)) return false;
  if (WRITTEN.has(one.role) || WRITTEN.has(other.role)) return true;
  return one.role === "is" && other.role === "is";
}

/** The topics of each channel, in the order of the description. */
function claimsOf(site: SiteDescription, device: DeviceDescription, profile: Profile): TopicClaim[] {
  const { indexFrom = 1 } = profile;
  const named = namesChannelIn(profile.codec);
  return device.channels.flatMap((channel, place) => {
    const where = { site, device, slug: channel.slug, index: channel.index ?? place + indexFrom };
    const patterns = patternsOf(profile.topics, device.topics, channel.topics);
    return ROLES.flatMap((role): TopicClaim[] => {
      const pattern = patterns[role];
      if (!pattern) return [];
      return [
        {
          topic: anyInTopic(fillTopic(pattern, where)),
          role,
          channel: `${device.slug}/${channel.slug}`,
          device: device.slug,
          isUsed: usesTopic(role, channel),
          isNamed: role === "is" ? named.is : role === "done" ? named.done : named.do,
        },
      ];
    });
  });
}

const ROLES = ["do", "stop", "ask", "done", "is", "here"] as const satisfies readonly Role[];

function usesTopic(role: Role, channel: ChannelDescription): boolean {
  const { input, actions }: ChannelKind = kindOf(channel.kind);
  if (role === "stop") return "stop" in actions;
  return role === "is" || role === "ask" || role === "here" || !input;
}

/** Claims by topic, so that those that overlap are found without a look at all of them. */
class ClaimIndex {
  readonly byTopic = new Map<string, TopicClaim[]>();
  private readonly place = new Map<TopicClaim, number>();
  readonly shapes: readonly TopicShape[];

  constructor(claims: readonly TopicClaim[]) {
    for (const [at, claim] of claims.entries()) {
      this.place.set(claim, at);
      const alike = this.byTopic.get(claim.topic);
      if (alike) alike.push(claim);
      else this.byTopic.set(claim.topic, [claim]);
    }
    this.shapes = shapesOf(this.byTopic.keys());
  }

  /** Earlier ones whose topics a claim overlaps. */
  before(claim: TopicClaim): TopicClaim[] {
    const own = this.place.get(claim) ?? 0;
    return overlapping(this, claim.topic)
      .flatMap((topic) => this.byTopic.get(topic) ?? [])
      .filter((other) => (this.place.get(other) ?? 0) < own);
  }
}
