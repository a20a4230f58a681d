/** The instance that holds the lanes: its parts, started stage by stage, and stopped in reverse. */
import type { RequestListener } from "node:http";
import type { LinkServer } from "../peers/link-server.ts";
import { limits } from "../platform/config/limits.ts";
import { Statistics } from "../reporting/statistics.ts";
import type { RecentStatistics } from "../state/recent-statistics.ts";
import type { HeldLease } from "../store/leases.ts";
import { openBroker } from "./broker-stage.ts";
import { openDelivery } from "./delivery-stage.ts";
import { openHttp } from "./http-stage.ts";
import { openInlets } from "./inlet-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import { openState, type State } from "./state-stage.ts";
import { StopStack } from "./stop-stack.ts";

export interface Leader {
  /** Answers everything that can be asked of the service. */
  readonly serve: RequestListener;
  /** Calls of other instances. */
  readonly links: LinkServer;
  /** Resolves once the broker link is up for the first time. */
  readonly linked: Promise<void>;
  /** For how long the broker link has been down, ms; 0: it is up. */
  readonly linkDownMs: number;
  /** Tries to connect to the broker now, if the link pauses between two tries. */
  hurryLink(): void;
  /** Answers everybody who waits, with what is known. */
  wakeAskers(): void;
  /** Leads one more shard. @throws what a part of it fails with */
  takeUp(heldLease: HeldLease): Promise<void>;
  /** Leads a shard no longer; see `openDelivery`. */
  leave(shard: number, how: "drain" | "abandon"): Promise<void>;
  /** Finishes what is being written, and closes everything. */
  drain(): Promise<void>;
  /** Another instance took over: everything stops where it is. */
  abandon(): Promise<void>;
}

/**
 * Takes up what is open in the database, connects to the broker and opens the inlets.
 *
 * @throws what a part fails with; what was started before is stopped by then
 */
export async function startLeader(deps: LeaderDeps): Promise<Leader> {
  const stack = new StopStack(deps.log, deps.onStarted);
  try {
    return await open(deps, stack);
  } catch (error) {
    await stack.abandon();
    throw error;
  }
}

async function open(deps: LeaderDeps, stack: StopStack): Promise<Leader> {
  const { log, clock, pool, config } = deps;
  const state = await openState(deps, stack);
  const statistics = new Statistics({
    clock,
    log,
    pool,
    board: state.board,
    recent: recentOf(state, deps),
    zone: config.zone,
  });
  // Stopped last: what it counts may wait for a database that is away, and nothing waits for it.
  stack.onStop("statistics", { drain: () => statistics.stop() });
  const broker = await openBroker(deps, state, stack);
  const delivery = await openDelivery(deps, state, broker, stack);
  const inlets = await openInlets(deps, state, broker, delivery, stack);
  delivery.jobs.add({ start: () => statistics.start(), stop: () => statistics.stop() });
  await delivery.jobs.update();
  const { serve, links } = await openHttp(deps, state, broker, delivery, inlets, statistics, stack);
  log.info({ channels: state.board.snapshot.channels.length }, "taking requests");
  return {
    serve,
    links,
    linked: delivery.linked,
    get linkDownMs() {
      return state.shards.linkState.downMs;
    },
    hurryLink() {
      for (const { link } of state.shards.all) link.hurry();
    },
    wakeAskers: () => state.answers.wakeAll(),
    takeUp: (heldLease) => delivery.takeUp(heldLease),
    leave: (shard, how) => delivery.leave(shard, how),
    async drain() {
      const giveUp = setTimeout(state.giveUpWriting, limits.drainMs);
      await stack.drain();
      clearTimeout(giveUp);
    },
    abandon: () => stack.abandon(),
  };
}

/** Where other instances lead too, what has just ended there is in the database only. */
function recentOf({ recent }: State, { peers, clock }: LeaderDeps): Pick<RecentStatistics, "since" | "within"> {
  return {
    get since() {
      return peers.shardCount > 1 ? clock.now() : recent.since;
    },
    within: (gap) => recent.within(gap),
  };
}
