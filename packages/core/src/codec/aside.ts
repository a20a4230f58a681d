/** What stands beside a payload, in the topic of its message: a value, a result, an id, in the same words as in the payload. Pure. */
import type { Aside, ChannelBinding } from "./codec.ts";
import { type Meaning, readValue, writeValue } from "./meaning.ts";

/** What may stand in a topic. */
export const IN_TOPIC = ["value", "id", "number", "result"] as const;
export type InTopic = Partial<Record<(typeof IN_TOPIC)[number], string>>;

export function asideOf(meaning: Meaning, binding: ChannelBinding): Aside {
  return { write: (to) => writeValue(to, meaning, binding), read: (raw) => readValue(raw, meaning, binding) };
}
