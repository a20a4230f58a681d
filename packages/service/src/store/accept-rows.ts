/** What the verb *accept* writes and answers: a request with its commands. */
import type { RequesterKind, Said } from "@bold-relay/core";

/** Why a channel must go off again at a certain time. */
export type DeadlineWhy = "timed off" | "auto-off" | "end of hold";

export interface CommandRow {
  readonly id: string;
  readonly channelId: number;
  readonly to: string;
  readonly urgent: boolean;
  readonly forMs: number | null;
  readonly clearWithinMs: number | null;
  /** Why it ends at once. */
  readonly blocked: string | null;
  /** When the channel must go off again, ms since 1970. */
  readonly deadline: { readonly dueAt: number; readonly forMs: number; readonly why: DeadlineWhy } | null;
}

export interface AcceptRow {
  readonly id: string;
  /** ms since 1970. */
  readonly askedAt: number;
  readonly requester: RequesterKind;
  /** Of a member; else null. */
  readonly memberId: number | null;
  readonly inlet: string;
  readonly asker: string;
  readonly keyId: number | null;
  /** The SHA-256 of a member's session, in base64; null: another thing vouches for them. */
  readonly session: string | null;
  readonly target: string;
  readonly action: string;
  readonly value: number | string | null;
  readonly forMs: number | null;
  /** What the arrival said that it was made of, and how that was read. */
  readonly said: Said | null;
  /** The caller's place in a trace of its own. */
  readonly traceparent: string | null;
  /** Set where the request ends on arrival. */
  readonly outcome: "refused" | "not-understood" | null;
  readonly refusal: object | null;
  /** Of one that ends on arrival: the slug of the site that it belongs to; null: of none, or its commands say it. */
  readonly site: string | null;
  /** What makes a repeated call the same call; null when the asker sent no key. */
  readonly idempotency: { readonly asker: string; readonly key: string; readonly bodySha256: string } | null;
  readonly commands: readonly CommandRow[];
  /** The deadline that this request carries out: it goes in the same transaction. */
  readonly deadlineOf: string | null;
}

export type AcceptResult =
  /** `seqs`: one a command, in order. */
  | { readonly kept: true; readonly seqs: readonly number[] }
  /** The asker's right, key or session ended after it was looked up. */
  | { readonly kept: false; readonly original: null }
  /** The same call was made before: this is its request, and whether its body was the same. */
  | { readonly kept: false; readonly original: string; readonly sameBody: boolean };
