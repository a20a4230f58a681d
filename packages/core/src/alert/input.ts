/** What alerts are made from: what is known of channels, inlets and keys. */
import type { Value } from "../channel/value.ts";
import type { Reason } from "../delivery/command.ts";
import type { End } from "../delivery/stage.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Agreement } from "../state/agreement.ts";
import type { PresencePattern } from "../state/presence-pattern.ts";
import type { StateAge } from "../state/state-age.ts";

/** What is known of one channel. */
export interface ChannelInput {
  readonly channel: ChannelEntry;
  readonly online: { readonly up: boolean; readonly since: number } | null;
  readonly agreement: Agreement;
  /** What it is and was told, in words; for drift. */
  readonly is: string;
  readonly told: string;
  /** Its state as a value; null: unknown. */
  readonly observed: Value | null;
  readonly observedAt: number;
  readonly lockedOut: boolean;
  /** Its newest command that has ended. */
  readonly last: {
    readonly id: string;
    readonly end: End | null;
    readonly reason: Reason | null;
    readonly at: number;
    readonly headline: string;
    readonly text: string;
  } | null;
  readonly concerns: readonly { readonly kind: string; readonly text: string; readonly since: number }[];
  /** What its device's comings and goings tell; null: nothing conspicuous. */
  readonly pattern: PresencePattern | null;
  readonly age: StateAge;
  /** What its device says of its own output, in words, where something else sees the channel otherwise; null: they agree. */
  readonly claimed: { readonly text: string; readonly since: number } | null;
}

export interface InletInput {
  readonly slug: string;
  readonly name: string;
  readonly site: string | null;
  readonly paused: boolean;
  readonly up: boolean | null;
  readonly trouble: string | null;
  /** When arrivals of the last hour were not understood, ms since 1970, oldest first. */
  readonly notUnderstood: readonly number[];
  /** When it last refused what went round in circles, and what was beyond its limit, ms since 1970; null: not lately. */
  readonly circledAt: number | null;
  readonly floodedAt: number | null;
  /** ms since 1970; the start of the service if none came since. */
  readonly lastAt: number;
  /** Told when it is quiet for longer, ms; null: it may be quiet. */
  readonly quietAfterMs: number | null;
  /** Any sender in any room may ask. */
  readonly isOpenToAnyone: boolean;
  /** Another inlet that acts on the same messages or presses, in words; null: none does. */
  readonly caughtTwice: string | null;
}

export interface KeyInput {
  readonly id: number;
  readonly name: string;
  readonly holder: string;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
  readonly site: string | null;
}

/** That somebody tries one after the other: sign-ins to an account, PINs or keys of an inlet. */
export interface GuessInput {
  readonly guessed: "account" | "pin" | "key";
  /** The account, or the identifier of the inlet; null: accounts that nobody has. */
  readonly of: string | null;
  /** From so many addresses. */
  readonly addresses: number;
  /** The first and the last within the hour that was slowed down, ms since 1970. */
  readonly firstAt: number;
  readonly lastAt: number;
  /** Whether a sign-in to the account followed, from one of the addresses. */
  readonly signedIn: boolean;
}

/** An instance of the service that runs, or ran within the last day and did not stop in order. */
export interface InstanceInput {
  readonly name: string;
  /** How long ago it was seen, ms. */
  readonly seenMs: number;
  /** ms since 1970. */
  readonly startedAt: number;
}

export interface AlertInput {
  readonly now: number;
  readonly channels: readonly ChannelInput[];
  readonly inlets: readonly InletInput[];
  readonly keys: readonly KeyInput[];
  readonly instances: readonly InstanceInput[];
  /** Of the last hour. */
  readonly guesses: readonly GuessInput[];
}
