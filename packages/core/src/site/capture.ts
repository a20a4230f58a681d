/** A scene made of what is on now. Pure. */
import { type KindName, kindOf } from "../channel/index.ts";
import { actionTo } from "../channel/kind.ts";
import { coloursIn, type Value } from "../channel/value.ts";
import type { SceneDescription } from "./model.ts";

export interface CapturedChannel {
  /** `device/channel` */
  readonly channel: string;
  readonly kind: KindName;
  /** What its device last said; null: nothing that still counts. */
  readonly state: Value | null;
}

export interface Capture {
  readonly sets: SceneDescription["sets"];
  /** Channels that are not in the scene, and why. */
  readonly left: readonly { readonly channel: string; readonly why: string }[];
}

/**
 * What a scene would set so that these channels become what they are now. A channel whose state is not known is left out: a guess would
 * be a claim.
 *
 * @example captureScene([{ channel: "wren/hall", kind: "dimmer", state: 35 }])
 *   // → { sets: [{ channel: "wren/hall", action: "level", value: 35 }], left: [] }
 */
export function captureScene(channels: readonly CapturedChannel[]): Capture {
  const sets: SceneDescription["sets"][number][] = [];
  const left: Capture["left"][number][] = [];
  for (const { channel, kind, state } of channels) {
    const set = setFor(kind, state);
    if ("why" in set) left.push({ channel, why: set.why });
    else sets.push({ channel, ...set });
  }
  return { sets, left };
}

type Set = { readonly action: string; readonly value?: number | string };

function setFor(name: KindName, state: Value | null): Set | { readonly why: string } {
  const kind = kindOf(name);
  if (kind.input) return { why: "it is an input" };
  if (!kind.repeatable) return { why: "a pulse has no state" };
  if (!kind.restorable && kind.answers !== "opening") return { why: "a scene does not keep a motor running" };
  if (state === null) return { why: "its state is not known" };
  const action = actionTo(kind, state);
  if (action !== null && state !== "stop") return { action };
  if (typeof state === "number" && "level" in kind.actions) return { action: "level", value: state };
  const colours = coloursIn(state);
  if (colours.length > 1 && "pattern" in kind.actions) return { action: "pattern", value: colours.join(", ") };
  if (colours.length > 0 && "colour" in kind.actions) return { action: "colour", value: colours.join(", ") };
  return { why: "it stands between two states" };
}
