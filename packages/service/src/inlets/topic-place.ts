/** Where topic inlets are on the broker, and what they may do there. */
import type { InletDescription } from "@bold-relay/core";
import type { BrokerAccess } from "../platform/config/broker-access.ts";

export interface TopicPlace {
  readonly access: BrokerAccess;
  /** Of all topic inlets: each adds its identifier. */
  readonly clientId: string;
  /** Why an answer of this inlet may not go there; null: it may. */
  readonly answerProblem: (inlet: InletPlace, topic: string) => string | null;
  /** Whether what comes on a topic may be taken by it: the model may have changed since it was saved. */
  readonly mayHear: (inlet: InletPlace, topic: string) => boolean;
}

type InletPlace = Pick<InletDescription, "slug" | "site">;
