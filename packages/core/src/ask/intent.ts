/** What is asked of a target, before anything is resolved. */
import type { Stage } from "../delivery/stage.ts";

export interface Intent {
  /** The name or address of a channel, a group or a scene, as the asker said it. */
  readonly target: string;
  readonly action: string;
  /** What the action takes: a level, how far to step, or a colour in words. */
  readonly value: number | string | null;
  /** For how long, ms; then the channel goes back to off. null: for good. */
  readonly forMs: number | null;
  /** The stage at which the asker wants to be answered; null: at the channel's aim. */
  readonly until: Exclude<Stage, "accepted"> | null;
  /** The asker's own name for this very call, so that repeating it does nothing twice; null when it gave none. */
  readonly repeatKey: string | null;
}

/** Who asks: a signed-in member, or whoever holds an inlet's key. */
export interface Asker {
  readonly inlet: string;
  /** Shown wherever the request is: a member's name, or the name that the sender gave. */
  readonly name: string;
  /** Only channels of these sites may be asked for; null: of every site. */
  readonly sites: readonly string[] | null;
  /** The key or session that vouches for the asker. */
  readonly keyId: number | null;
}
