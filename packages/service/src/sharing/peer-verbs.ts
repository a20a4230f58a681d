/** What instances ask of each other. */
import type { Asker, Intent } from "@bold-relay/core";
import { healthHere } from "../inlets/inlet-health.ts";
import type { InletRegistry } from "../inlets/registry.ts";
import type { AnswerCall } from "../peers/link-server.ts";
import { LanesMoved } from "../requests/submit.ts";
import type { Ask, AskBriefly, Follow } from "../requests/wait.ts";
import { recordsOf } from "../state/open-requests.ts";
import { type StatusDeps, statusPart } from "./status-anywhere.ts";

/** What is asked of the leader of a shard. */
export interface PeerAsk {
  readonly intent: Intent;
  readonly asker: Asker;
  readonly waitMs: number;
}

/** A request that is followed at the instance where its lanes are. */
export interface PeerFollow {
  readonly id: string;
  readonly waitMs: number;
}

export interface PeerVerbDeps extends StatusDeps {
  /** They take what is asked of shards that are led here, and throw `LanesMoved` otherwise. */
  readonly ask: Ask;
  readonly askBriefly: AskBriefly;
  readonly follow: Follow;
  readonly inlets: Pick<InletRegistry, "all">;
  /** Something was changed through another instance. */
  readonly onPoke: () => Promise<void>;
}

type Verb = (body: never) => Promise<object>;

export function createPeerVerbs(deps: PeerVerbDeps): AnswerCall {
  const { ask, askBriefly, follow, openRequests, onPoke } = deps;
  const verbs: Readonly<Record<string, Verb>> = {
    ask: ({ intent, asker, waitMs }: PeerAsk) => ask(intent, asker, waitMs),
    brief: ({ intent, asker, waitMs }: PeerAsk) => askBriefly(intent, asker, waitMs),
    follow: ({ id, waitMs }: PeerFollow) => follow(id, waitMs),
    open: async ({ ids }: { ids: readonly string[] }) =>
      ids.flatMap((id) => {
        const open = openRequests.get(id);
        return open ? recordsOf(open) : [];
      }),
    inlets: async ({ since }: { since: number }) => healthHere(deps.inlets.all, since),
    status: async ({ sites, nowhereSince }: { sites: readonly string[] | null; nowhereSince: number }) =>
      statusPart(deps, sites, nowhereSince),
    async poke() {
      await onPoke();
      return {};
    },
  };
  return async (verb, body) => {
    try {
      return (await verbs[verb]?.(body as never)) ?? null;
    } catch (error) {
      if (error instanceof LanesMoved) return null;
      throw error;
    }
  };
}
