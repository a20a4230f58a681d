/** What instances that lead beside each other tell each other, and where what is asked of this one is answered. */
import type { RequestListener } from "node:http";
import { LinkServer } from "../peers/link-server.ts";
import type { WrittenLine } from "../sharing/event-stream.ts";
import { FactFollow } from "../sharing/fact-follow.ts";
import { FollowWhile } from "../sharing/follow-while.ts";
import { createOpenElsewhere } from "../sharing/open-elsewhere.ts";
import { createPeerStreams } from "../sharing/peer-streams.ts";
import { createPeerVerbs } from "../sharing/peer-verbs.ts";
import { createRouter } from "../sharing/router.ts";
import type { AddressedEvent } from "../state/live-feed.ts";
import { shardOfChannel } from "../state/site-shards.ts";
import { findActiveLockouts } from "../store/lockouts.ts";
import type { BrokerWays } from "./broker-stage.ts";
import type { Delivery } from "./delivery-stage.ts";
import type { Inlets } from "./inlet-stage.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import type { State } from "./state-stage.ts";
import type { StopStack } from "./stop-stack.ts";

interface SharingDeps {
  readonly deps: LeaderDeps;
  readonly state: State;
  readonly broker: BrokerWays;
  readonly delivery: Delivery;
  readonly inlets: Inlets;
  /** Answers what is answered here. */
  readonly serve: RequestListener;
  readonly stack: StopStack;
}

/** Something that nobody told of is seen by looking, ms. */
const LOOK_EVERY_MS = 3_000;
const POKE_WITHIN_MS = 2_000;

/** Ways in. */
export interface Sharing {
  /** Answers everything that can be asked of the service. */
  readonly serve: RequestListener;
  /** Calls of other instances. */
  readonly links: LinkServer;
}

export function openSharing({ deps, state, broker, delivery, inlets, serve, stack }: SharingDeps): Sharing {
  const { log, pool, peers } = deps;
  const { board, deadlines, feed, presences, shards, openRequests, lockouts, tally } = state;
  const facts = { board, deadlines, feed, presences, shards };
  const follow = new FactFollow({ ...facts, peers, log });
  const events = new FollowWhile({
    ...{ peers, stream: "events", isWanted: () => feed.isLookedAt },
    onLine: (line) => feed.tell(line as AddressedEvent, true),
  });
  const writes = new FollowWhile({
    ...{ peers, stream: "writes", isWanted: () => broker.wire.size > 0 },
    onLine(line) {
      const { topic, bytes } = line as WrittenLine;
      broker.wire.wroteAnywhere(topic, Buffer.from(bytes, "base64"));
    },
  });
  peers.watch(() => follow.update());
  follow.update();
  const timer = setInterval(() => {
    if (peers.shardCount > 1) void lookAgain();
  }, LOOK_EVERY_MS);
  const links = new LinkServer(
    peers.proof,
    log,
    createPeerVerbs({
      ...{ ...facts, ...delivery.here, peers, tally, openRequests },
      ...{ status: delivery.status, inlets: inlets.inlets, onPoke: lookAgain },
    }),
  );
  stack.onStop("peers", {
    async drain() {
      clearInterval(timer);
      peers.watch(() => {});
      follow.stop();
      events.stop();
      writes.stop();
      await links.close();
    },
  });
  state.queries.elsewhere = createOpenElsewhere(pool, peers, log);
  const serveStream = createPeerStreams({ ...facts, wire: broker.wire });
  const route = createRouter({ pool, board, shards, peers, inlets: inlets.inlets, onChange: poke, serve });
  return {
    links,
    serve(req, res) {
      if (!serveStream(req, res)) route(req, res);
    },
  };

  /** What was changed through other instances is taken on. */
  async function lookAgain(): Promise<void> {
    try {
      await state.follow.follow();
      await inlets.inlets.refresh();
      await broker.notifications.refresh();
      lockouts.follow(await findActiveLockouts(pool), (id) => shards.leads(shardOfChannel(board.snapshot, id)));
    } catch (error) {
      log.debug({ err: error }, "what others have changed could not be read");
    }
  }

  function poke(): void {
    for (const peer of peers.others())
      peers.calls
        .call(peer, "poke", {}, POKE_WITHIN_MS)
        .catch((error: unknown) => log.debug({ err: error, instance: peer.name }, "it could not be told of a change"));
  }
}
