/** From what is wished to the action that a kind of channel takes for it. */
import { actionsOf, READ_ACTION } from "../ask/guard.ts";
import { type KindName, kindOf } from "../channel/index.ts";
import type { Thing } from "./vocabulary.ts";
import type { Verb } from "./words.ts";

export interface Act {
  readonly verb: Verb | null;
  readonly number: number | null;
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
  up: ["open", "brighter"],
  down: ["close", "darker"],
  full: ["on", "open"],
};

/**
 * @returns null when this kind cannot be asked this
 * @example actionFor("dimmer", { verb: "half", … }) // → { action: "level", value: 50 }
 */
export function actionFor(name: KindName, { verb, number, colour }: Act): ActionFound | null {
  const kind = kindOf(name);
  // Whether its device can be asked is the guard's to say.
  if (verb === "read") return number === null && colour === null ? { action: READ_ACTION, value: null } : null;
  const has = (action: string) => Object.hasOwn(kind.actions, action);
  const taken = (action: string, value: ActionFound["value"] = null) => (has(action) ? { action, value } : null);
  if (colour !== null) return number === null ? taken("colour", colour) : null;
  // "brighter by 20" says how far; "dim" alone goes the usual step.
  if (verb === "brighter" || verb === "darker") return taken(verb, number);
  if (number !== null) return levelFor(verb, number, taken);
  if (verb === "half") return taken("level", 50);
  if (verb === null || verb === "level") return null;
  const action = (OTHERWISE[verb] ?? [verb]).find(has);
  return action === undefined ? null : { action, value: null };
}

/** "off at 50" says two things; closed by 30 is open by 70. */
function levelFor(verb: Verb | null, number: number, taken: (action: string, value: number) => ActionFound | null) {
  if (verb === "close") return taken("level", 100 - number);
  return verb === null || ["on", "level", "open", "up", "down"].includes(verb) ? taken("level", number) : null;
}

/** What can be asked of it, for whoever asked something else. */
export function actionsInWords(thing: Thing): string[] {
  if (thing.is === "channel") return actionsOf(thing.channel);
  if (thing.is === "bundle") return thing.bundle.kind === "scene" ? ["recall"] : ["on", "off"];
  return [];
}
