/**
 * What a message says by its topic instead of its payload: `relay/3/{value}`, `answers/{id}`. Such a hole is a whole level (MQTT 5,
 * 4.7.1). Pure.
 */
import type { InTopic } from "../codec/aside.ts";

const HOLE = /^\{(value|id|number|result)\}$/;

function holeIn(level: string): keyof InTopic | undefined {
  return HOLE.exec(level)?.[1] as keyof InTopic | undefined;
}

/** Whether a topic, or the pattern of one, has a level that differs with each message. */
export function saysInTopic(pattern: string): boolean {
  return pattern.split("/").some((level) => holeIn(level) !== undefined);
}

/** What covers all topics that a message may have. @example anyInTopic("relay/3/{value}") // → "relay/3/+" */
export function anyInTopic(topic: string): string {
  return topic
    .split("/")
    .map((level) => (holeIn(level) === undefined ? level : "+"))
    .join("/");
}

/** @example fillInTopic("relay/3/{value}", { value: "ON" }) // → "relay/3/ON" */
export function fillInTopic(topic: string, said: InTopic): string {
  return topic
    .split("/")
    .map((level) => {
      const hole = holeIn(level);
      return hole === undefined ? level : (said[hole] ?? "");
    })
    .join("/");
}

/**
 * @returns null when the topic is of another form
 * @example readInTopic("relay/3/{value}", "relay/3/ON") // → { value: "ON" }
 */
export function readInTopic(pattern: string, topic: string): InTopic | null {
  const [wanted, levels] = [pattern.split("/"), topic.split("/")];
  if (wanted.length !== levels.length) return null;
  const said: InTopic = {};
  for (const [at, level] of wanted.entries()) {
    const hole = holeIn(level);
    if (hole !== undefined) said[hole] = levels[at] ?? "";
    else if (level !== levels[at]) return null;
  }
  return said;
}

/** At which levels the topics of messages differ, of topics with so many levels. */
export interface TopicShape {
  readonly length: number;
  readonly open: ReadonlySet<number>;
}

/** The few shapes of many topics: a topic is looked up once for each. @param topics those with + in them count */
export function shapesOf(topics: Iterable<string>): TopicShape[] {
  const shapes = new Map<string, TopicShape>();
  for (const topic of topics) {
    if (!topic.includes("+")) continue;
    const levels = topic.split("/");
    const open = levels.flatMap((level, at) => (level === "+" ? [at] : []));
    shapes.set(`${levels.length}:${open}`, { length: levels.length, open: new Set(open) });
  }
  return [...shapes.values()];
}

/** What a topic that a message came on is to us; undefined: nothing. */
export function useOf<Use>({ byTopic, shapes }: Topics<Use>, topic: string): Use | undefined {
  const known = byTopic.get(topic);
  if (known || shapes.length === 0) return known;
  const levels = topic.split("/");
  for (const { length, open } of shapes) {
    if (length !== levels.length) continue;
    const found = byTopic.get(masked(levels, open));
    if (found) return found;
  }
  return undefined;
}

interface Topics<Use> {
  readonly byTopic: ReadonlyMap<string, Use>;
  readonly shapes: readonly TopicShape[];
}

/**
 * All topics, and filters with +, that a topic or such a filter has messages in common with. Costs a look at the few shapes, however many
 * topics there are.
 *
 * @example overlapping(among, "relay/3/+") // → ["relay/3/+", "relay/3/ON"]
 */
export function overlapping<Use>(among: Topics<Use>, topic: string): string[] {
  const levels = topic.split("/");
  const open = new Set(levels.flatMap((level, at) => (level === "+" ? [at] : [])));
  const shapes = among.shapes.filter(({ length }) => length === levels.length);
  if (open.size === 0) {
    const covering = shapes.map((shape) => masked(levels, shape.open)).filter((filter) => among.byTopic.has(filter));
    return among.byTopic.has(topic) ? [topic, ...covering] : covering;
  }
  return [{ length: levels.length, open: new Set<number>() }, ...shapes].flatMap((shape) => {
    const either = new Set([...shape.open, ...open]);
    return maskedTopics(among, shape, either).get(masked(levels, either)) ?? [];
  });
}

function masked(levels: readonly string[], open: ReadonlySet<number>): string {
  return levels.map((level, at) => (open.has(at) ? "+" : level)).join("/");
}

/** By all topics the topics of one shape as they are with more levels open, for each of these that was asked for. */
const knownMasks = new WeakMap<object, Map<string, ReadonlyMap<string, readonly string[]>>>();

function maskedTopics({ byTopic }: Topics<unknown>, { length, open }: TopicShape, either: ReadonlySet<number>) {
  const known = knownMasks.get(byTopic) ?? new Map<string, ReadonlyMap<string, readonly string[]>>();
  knownMasks.set(byTopic, known);
  const name = `${length}:${[...open].sort()}:${[...either].sort()}`;
  const made = known.get(name) ?? groupMasked(byTopic.keys(), { length, open }, either);
  known.set(name, made);
  return made;
}

function groupMasked(topics: Iterable<string>, { length, open }: TopicShape, either: ReadonlySet<number>) {
  const groups = new Map<string, string[]>();
  for (const topic of topics) {
    const levels = topic.split("/");
    if (levels.length !== length || !levels.every((level, at) => (level === "+") === open.has(at))) continue;
    const key = masked(levels, either);
    const group = groups.get(key);
    if (group) group.push(topic);
    else groups.set(key, [topic]);
  }
  return groups;
}

/**
 * Who has a topic, or one of those that a filter with + covers.
 *
 * @returns null when nobody has whom `isMeant` means
 */
export function usedBy<Use>(among: Topics<Use>, topic: string, isMeant: (use: Use) => boolean): Use | null {
  for (const other of overlapping(among, topic)) {
    const use = among.byTopic.get(other);
    if (use !== undefined && isMeant(use)) return use;
  }
  return null;
}
