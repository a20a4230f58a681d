/** From what is wished to the action that a kind of channel takes for it. */
import { actionsOf, READ_ACTION } from "../ask/guard.ts";
import { kindOf } from "../channel/index.ts";
import type { ChannelKind } from "../channel/kind.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { type SaidUnit, suitsUnit } from "./unit.ts";
import type { Thing } from "./vocabulary.ts";
import type { Extent, Verb } from "./words.ts";

export interface Act {
  readonly verb: Verb | null;
  /** "half open", "full" */
  readonly extent: Extent | null;
  readonly number: number | null;
  /** How the number is meant: so far, or up to there; null: the phrase does not say. */
  readonly numberBy: "by" | "to" | null;
  readonly numberUnit: SaidUnit | null;
  readonly colour: string | null;
  /** Nothing was wished in so many words. */
  readonly isEmpty: boolean;
}

export interface ActionFound {
  readonly action: string;
  readonly value: number | string | null;
}

/** Words that mean the same to a kind that has only one of them. */
const OTHERWISE: Partial<Record<Verb, readonly string[]>> = {
  up: ["open", "brighter", "raise"],
  down: ["close", "darker", "lower"],
};

/**
 * Every part of the wish is used, or it cannot be had: nothing of it is dropped.
 *
 * @returns null when this kind cannot be asked this
 * @example actionFor(hall dimmer, { extent: "half", … }) // → { action: "level", value: 50 }
 */
export function actionFor(channel: Pick<ChannelEntry, "kind" | "unit">, act: Act): ActionFound | null {
  const { verb, extent, number, colour } = act;
  const kind = kindOf(channel.kind);
  const has = (action: string) => Object.hasOwn(kind.actions, action);
  const taken: Taken = (action, value = null) => (has(action) ? { action, value } : null);
  const parts = [extent, number, colour].filter((part) => part !== null).length;
  if (parts === 0) return plainAction(verb, has);
  if (parts > 1 || verb === "read") return null;
  if (colour !== null) return verb === null || verb === "on" ? taken("colour", colour) : null;
  if (extent !== null) return hasNoExtent(kind) && verb === null ? null : extentFor(extent, verb, kind, taken);
  if (number === null || !suitsUnit(act.numberUnit, channel)) return null;
  return numberFor(act, number, taken, kind);
}

function plainAction(verb: Verb | null, has: (action: string) => boolean): ActionFound | null {
  // Whether its device can be asked is the guard's to say.
  if (verb === "read") return { action: READ_ACTION, value: null };
  if (verb === null || verb === "level") return null;
  const action = (OTHERWISE[verb] ?? [verb]).find(has);
  return action === undefined ? null : { action, value: null };
}

type Taken = (action: string, value?: ActionFound["value"]) => ActionFound | null;

/** Its number is how fast it runs, or counts something of its own, and is not how far: "half" and "half open" say no such number. */
function hasNoExtent({ range }: ChannelKind): boolean {
  return range !== null && (range.least < 0 || range.ofChannel === true);
}

function extentFor(extent: Extent, verb: Verb | null, kind: ChannelKind, taken: Taken): ActionFound | null {
  if (extent === "half") {
    const verbs =
      kind.answers === "opening" ? ["level", "open", "close", "up", "down"] : ["level", "on", "brighter", "darker"];
    return (verb === null || verbs.includes(verb)) && !hasNoExtent(kind) ? taken("level", 50) : null;
  }
  if (verb === "close" || verb === "down") return taken("close");
  const suits = verb === null || ["on", "level", "open", "up", "brighter"].includes(verb);
  return suits ? (taken("open") ?? taken("on")) : null;
}

/** Verbs that go on from where it is, by the action that takes how far. */
const STEPS: Partial<Record<Verb, readonly string[]>> = {
  brighter: ["brighter"],
  darker: ["darker"],
  up: ["brighter", "raise"],
  down: ["darker", "lower"],
};

/** "off at 50" says two things; closed by 30 is open by 70. "Brighter by 20" goes on from where it is, "brighter to 20" goes there. */
function numberFor({ verb, numberBy }: Act, number: number, taken: Taken, kind: ChannelKind): ActionFound | null {
  const steps = verb === null ? undefined : STEPS[verb];
  if (steps && numberBy === "by") return steps.map((step) => taken(step, number)).find((one) => one !== null) ?? null;
  if (steps) return numberBy === "to" ? taken("level", number) : null;
  // "close to 30" may leave it 30 % open, or 70 %.
  if (verb === "close") return numberBy === "to" ? null : taken("level", 100 - number);
  if (kind.range?.ofChannel && verb === "on") return null;
  const isPlain = verb === null || verb === "level" || ((verb === "on" || verb === "open") && taken(verb) !== null);
  return isPlain ? taken("level", number) : null;
}

/** What can be asked of it, for whoever asked something else. */
export function actionsInWords(thing: Thing): string[] {
  if (thing.is === "channel") return actionsOf(thing.channel);
  if (thing.is === "bundle") return thing.bundle.kind === "scene" ? ["recall"] : ["on", "off"];
  return [];
}
