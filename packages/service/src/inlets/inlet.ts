/** What every kind of inlet is handed: who it is, and the two things it may do. It sees neither store nor link. */
import type { RequestView } from "@bold-relay/api";
import type { Asker, Intent } from "@bold-relay/core";

export interface InletDesk {
  /** Accepts an intent and waits up to `waitMs` for its outcome. Rejects with the refusal. */
  readonly ask: (intent: Intent, asker: Asker, waitMs: number) => Promise<RequestView>;
}
