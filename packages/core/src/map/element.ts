/**
 * The elements of the map, from left to right: who asks, what catches it, what it names, and the channels that it reaches. Each has an id
 * that stays the same while it is described the same, so that addresses and drafts can name it.
 */
import type { InletDescription } from "../inlet/model.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Role } from "../team/role.ts";

export const ASKER_KINDS = ["member", "key", "sender", "holder", "publisher", "input", "rule"] as const;

/**
 * Who or what asks.
 *
 * - member: by console, app or command line · key: a member's key, by the API
 * - sender: somebody whom an inlet permits by name, or anybody · holder: whoever has a key of an inlet
 * - publisher: whoever may write on a topic at the broker · input: a button, switch or contact of a device of ours · rule: the service itself
 */
export interface MapAsker {
  readonly id: string;
  readonly kind: (typeof ASKER_KINDS)[number];
  readonly name: string;
  /** What is said of it beside its name: a role, an inlet, when a key expires; "" for nothing. */
  readonly note: string;
  /** The inlet that it asks at; null: at none. */
  readonly inlet: string | null;
  /** Nothing holds it to certain people: a sender `*`, or a topic of the broker. */
  readonly anybody: boolean;
  /** Of a key: when it ends, ms since 1970; null: never. Left out where it is no key. */
  readonly expiresAt?: number | null;
}

export const CATCH_KINDS = [
  "right",
  "wire",
  "route",
  "key press",
  "button",
  "phrases",
  "named",
  "link",
  "rule",
] as const;

/**
 * What catches a request.
 *
 * - right: a member's right to switch · wire: to publish by hand
 * - route: of an inlet · key press: of a keypad's menu · button: of a panel · phrases: whatever an inlet's grammar understands · named: an inlet whose callers name
 *   the channel · link: signed, with a phrase
 * - rule: of a channel or an interlock
 */
export interface MapCatch {
  readonly id: string;
  readonly kind: (typeof CATCH_KINDS)[number];
  readonly name: string;
  /** What it catches, in short: `topic buttons/{room}/{lamp}`; "" where the name says it. */
  readonly note: string;
  readonly inlet: string | null;
  /** The site that it is held to; null: every one. */
  readonly site: string | null;
  /** The place of a route among its inlet's, from 1; null: it is none. */
  readonly route: number | null;
  /** MQTT filter of a route by topic; null: it is none. */
  readonly topic: string | null;
  /** Under which its uses are counted, see `way.ts`; null: they are not told apart. */
  readonly way: string | null;
  /** It takes nothing just now. */
  readonly paused: boolean;
  readonly askers: readonly MapAsker[];
  readonly reaches: readonly Reach[];
}

/** What is asked of a target. */
export interface Reach {
  readonly target: MapTarget;
  /** In words, `on` or `set 40`; null: whatever is asked. */
  readonly action: string | null;
}

export const TARGET_KINDS = ["channel", "group", "scene", "site", "names"] as const;

/** What a request names. names: whatever fits a name with holes, like `{room}/{lamp}`. */
export interface MapTarget {
  readonly id: string;
  readonly kind: (typeof TARGET_KINDS)[number];
  readonly name: string;
  /** Where it has one; null: it has none. */
  readonly address: string | null;
  readonly channels: ReadonlySet<ChannelEntry>;
}

export interface RelayMap {
  /** By identifier. */
  readonly inlets: ReadonlyMap<string, Pick<InletDescription, "name" | "kind" | "site">>;
  readonly askers: readonly MapAsker[];
  readonly catches: readonly MapCatch[];
  /** Every target that something names, each once. */
  readonly targets: readonly MapTarget[];
  /** Channels that take commands, in the order of the schedule. */
  readonly channels: readonly ChannelEntry[];
  /** Routes and phrases that name nothing. */
  readonly lost: readonly { readonly catch: MapCatch; readonly target: string }[];
}

/** @example roleText("user") // → "user or more" */
export function roleText(role: Role): string {
  return role === "owner" ? role : `${role} or more`;
}

export function channelTargetId(address: string): string {
  return `channel:${address}`;
}
