/** What an inlet is: one configured way for requests to come in. Data, changed while the service runs. */
import type { KindName } from "../channel/index.ts";
import type { PayloadForm } from "../codec/payload-form.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Role } from "../team/role.ts";

export const INLET_KINDS = [
  "web",
  "hook",
  "call",
  "chat",
  "topic",
  "line",
  "sheet",
  "keypad",
  "device",
  "panel",
] as const;
export type InletKind = (typeof INLET_KINDS)[number];

export interface InletDescription {
  readonly slug: string;
  /** Shown as the asker where the sender gives no name. */
  readonly name: string;
  readonly kind: InletKind;
  /** Requests may only name what belongs to this site; null: to any. */
  readonly site: string | null;
  /** Takes nothing while it is. Default false. */
  readonly paused?: boolean;
  /** Arrivals in a minute; what comes beyond is refused. Default 120. */
  readonly perMinute?: number;
  /** Somebody should look when nothing has come in for longer; left out: it may be quiet. */
  readonly quietAfterHours?: number;
  /**
   * Who may ask, as `room/sender` in a chat and `sender` elsewhere; `*` for any. Of a chat the default is nobody, of other
   * kinds whoever has the key.
   */
  readonly senders?: readonly string[];
  /** What senders are, for routes that want more than a user: role by sender, written as in `senders`. */
  readonly roles?: Readonly<Record<string, Role>>;
  /** What senders say → what is meant. */
  readonly synonyms?: Readonly<Record<string, string>>;
  readonly replies?: Partial<Replies>;
  /** In order, the first that fits counts. Left out where people write: whatever the grammar understands. */
  readonly routes?: readonly Route[];
  /** What only this kind has; see the kind's own schema. */
  readonly settings?: Readonly<Record<string, unknown>>;
}

/** What is said back. Holes: {sender} {words} {nearest} {can} {result} {choices} {name} */
export interface Replies {
  readonly greeting: string;
  readonly help: string;
  /** Something was asked, and it has ended. */
  readonly result: string;
  /** It has not ended yet. */
  readonly waiting: string;
  readonly which: string;
  readonly unknown: string;
  readonly refused: string;
  readonly unknownSender: string;
}

/** What an arrival brings, whatever way it came. */
export interface Arrival {
  /** What a person wrote or said. */
  readonly text: string | null;
  /** The payload's bytes in hexadecimal, where they are no plain text. */
  readonly hex: string | null;
  /** A document with fields. */
  readonly fields: unknown;
  readonly topic: string | null;
  /** Keys that were pressed. */
  readonly digits: string | null;
  /** The address of an input of ours; what it told stands in `text`, see `InputEvent`. */
  readonly channel: string | null;
  readonly sender: string | null;
  readonly room: string | null;
  /** It is the phrase of a signed link: the grammar reads it, whatever the routes say. */
  readonly link?: true;
}

export const NO_ARRIVAL: Arrival = {
  text: null,
  hex: null,
  fields: null,
  topic: null,
  digits: null,
  channel: null,
  sender: null,
  room: null,
};

export interface Route {
  readonly name?: string;
  readonly when: When;
  readonly only?: Condition;
  readonly do: Deed;
  /** What is said back once all that it asked is done; else the inlet's own words tell what became of it. */
  readonly reply?: string;
}

/**
 * What a route catches:
 * - any: everything · phrase: whatever the grammar understands · words: these words, all of them, whatever their case
 * - topic: an MQTT filter, in which a level may be a hole, like `greenhouse/{bay}/want`; with `payload` only what can be read
 *   as a command in that form, which gives the holes {to}, {action} and {value}
 * - fields: JSON Pointers (RFC 6901) and what stands there; a text that is one hole takes whatever stands there
 * - digits: keys that were pressed
 * - channel: an input of a device, as `device/channel` or `site/device/channel`, in which a level may be a hole; it becomes on or off, or is
 *   pressed once, twice or long
 */
export type When =
  | { readonly any: true }
  | { readonly phrase: true }
  | { readonly words: string }
  | { readonly topic: string; readonly payload?: PayloadReading }
  | { readonly fields: Readonly<Record<string, string | number | boolean>> }
  | { readonly digits: string }
  | { readonly channel: string; readonly becomes: "on" | "off" }
  | { readonly channel: string; readonly pressed: "once" | "twice" | "long" };

/** How a payload is read: as a device of this kind would read its commands. */
export interface PayloadReading {
  readonly kind: KindName;
  readonly form: PayloadForm;
  /** What payloads call the channel, where they name one. Default 1. */
  readonly index?: number;
  /** Wired the other way round. Default false. */
  readonly reversed?: boolean;
}

export interface Condition {
  readonly senders?: readonly string[];
  /** Only of senders who are at least this; who has no role in the inlet is a user. */
  readonly role?: Role;
  /** Only while a channel is observed so. */
  readonly channel?: { readonly address: string; readonly is: string | number };
}

/**
 * What a caught arrival turns into. Texts may have holes: those of the route, and {text} {sender} {room} {payload}.
 * - phrase: words for the grammar · target and action: an intent · ignore: nothing, on purpose
 */
export type Deed =
  | { readonly phrase: string }
  | {
      readonly target: string;
      readonly action: string;
      readonly value?: string | number;
      /** ms */
      readonly forMs?: number;
      /** What the value, or the action, is made of by a table or a scale, by hole. */
      readonly map?: Readonly<Record<string, Mapping>>;
    }
  | { readonly ignore: true };

export type Mapping =
  /** What is said → what is meant; anything else is not understood. */
  | { readonly table: Readonly<Record<string, string | number>> }
  /** Numbers from one range to another, both ends included. */
  | { readonly scale: { readonly from: readonly [number, number]; readonly to: readonly [number, number] } }
  /** Below the first limit its word, below the second the next one, else the last. */
  | { readonly steps: { readonly below: readonly (readonly [number, string])[]; readonly otherwise: string } };

/** What a condition may look at. */
export interface RouteInput {
  /** What a channel is observed to be, as text; null when nobody knows. */
  readonly observed: (channel: ChannelEntry) => string | null;
  /** What the sender is at this inlet. */
  readonly roleOf: (arrival: Arrival) => Role;
}
