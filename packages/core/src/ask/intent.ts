/** What is asked of a target, before anything is resolved. */
import type { Stage } from "../delivery/stage.ts";
import type { ChannelId } from "../id.ts";
import type { Arrival } from "../inlet/model.ts";
import type { RequesterKind } from "../team/requester.ts";

export interface Intent {
  /** The name or address of a channel, a group or a scene, as the asker said it. */
  readonly target: string;
  /** The channels, where they have no name together; `target` then says in words which they are. */
  readonly among?: readonly ChannelId[] | null;
  readonly action: string;
  /** What the action takes: a level, how far to step, or a colour in words. */
  readonly value: number | string | null;
  /** For how long, ms; then the channel goes back to off. null: for good. */
  readonly forMs: number | null;
  /** The stage at which the asker wants to be answered; null: at the channel's target stage. */
  readonly until: Exclude<Stage, "accepted"> | null;
  /** The asker's own name for this very call, so that repeating it does nothing twice; null when it gave none. */
  readonly repeatKey: string | null;
  /** Names the message that brought it, where its broker may bring that again: to this process only, and for a moment. */
  readonly delivery?: string | null;
  /** Where it was made of an arrival: what that said, and how it was read. */
  readonly said?: Said | null;
  /** The caller's place in a trace of its own; see `trace-context.ts`. */
  readonly traceparent?: string | null;
  /** What caught it, as uses are counted; see `map/way.ts`. Left out: its asker tells. */
  readonly way?: string | null;
}

/** What came in at an inlet, and what of it gave what; kept with the request. */
export interface Said {
  readonly words: string;
  /** The place of the route that caught it, from 1; null: none was needed. */
  readonly route: number | null;
  readonly used: readonly { readonly words: string; readonly gave: string }[];
  /** What came, word for word; left out where it was very long, or belongs to the request before. */
  readonly arrival?: Partial<Arrival>;
}

/** Who asks: a signed-in member, an inlet with the sender that it claims, or a rule of ours. */
export interface Asker {
  readonly requester: RequesterKind;
  /** Of a member; else null. */
  readonly memberId: number | null;
  /** The way in: the inlet's identifier, `board`, `command line` or `API` of a member, or the name of the rule. */
  readonly inlet: string;
  /** Shown wherever the request is: a member's name, or the name that the sender gave. It proves nothing. */
  readonly name: string;
  /** Only channels of these sites may be asked for; null: of every site. */
  readonly sites: readonly string[] | null;
  /** The key or session that vouches for the asker. */
  readonly keyId: number | null;
  /** The SHA-256 of the session that vouches for a member, in base64; left out: a key does, or nothing. */
  readonly session?: string;
}
