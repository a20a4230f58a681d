/**
 * What a message says by its topic instead of its payload: `relay/3/{value}`, `answers/{id}`. Such a hole is a whole level (MQTT 5,
 * 4.7.1). Pure.
 */
import type { InTopic } from "../codec/aside.ts";
import { firstLevel, overlap } from "./filter.ts";

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
export function useOf<Use>(
  { byTopic, shapes }: { readonly byTopic: ReadonlyMap<string, Use>; readonly shapes: readonly TopicShape[] },
  topic: string,
): Use | undefined {
  const known = byTopic.get(topic);
  if (known || shapes.length === 0) return known;
  const levels = topic.split("/");
  for (const { length, open } of shapes) {
    if (length !== levels.length) continue;
    const found = byTopic.get(levels.map((level, at) => (open.has(at) ? "+" : level)).join("/"));
    if (found) return found;
  }
  return undefined;
}

/**
 * Topics that a topic, or a filter with + in it, has in common with others. Costs a look at all of them only for a filter.
 *
 * @returns null when it has none
 */
export function usedBy<Use>(
  among: { readonly byTopic: ReadonlyMap<string, Use>; readonly shapes: readonly TopicShape[] },
  topic: string,
  isMeant: (use: Use) => boolean,
): Use | null {
  const own = useOf(among, topic);
  if (own !== undefined && isMeant(own)) return own;
  if (!topic.includes("+")) return null;
  const first = firstLevel(topic);
  for (const [other, use] of among.byTopic)
    if (firstLevel(other) === first && overlap(topic, other) && isMeant(use)) return use;
  return null;
}
