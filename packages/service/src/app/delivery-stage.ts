/** Third stage: the shards that this instance leads take requests, and what they share stands ready. */
import { EventEmitter } from "node:events";
import type { ChannelId } from "@bold-relay/core";
import { CommissioningRuns } from "../commissioning/runs.ts";
import { limits } from "../platform/config/limits.ts";
import { Status } from "../reporting/status.ts";
import { createClose } from "../requests/cancel.ts";
import { type LedShard, untilDone } from "../requests/shards.ts";
import { type Accept, LanesMoved, type RequestSubmission } from "../requests/submit.ts";
import { createAsk } from "../requests/wait.ts";
import { createAskAnywhere } from "../sharing/ask-anywhere.ts";
import { shardOfChannel, shardOfSite, sitesOfShard } from "../state/site-shards.ts";
import type { HeldLease } from "../store/leases.ts";
import { type Db, inTransaction } from "../store/pool.ts";
import { awaitShardOfSite, saveShardOfSite } from "../store/shards.ts";
import type { BrokerWays } from "./broker-stage.ts";
import { FirstJobs } from "./first-jobs.ts";
import { keepTidy } from "./housekeeping.ts";
import type { LeaderDeps } from "./leader-deps.ts";
import { openShard, situationIn } from "./shard.ts";
import type { State } from "./state-stage.ts";
import { StopStack } from "./stop-stack.ts";

export type Delivery = Awaited<ReturnType<typeof openDelivery>>;

export async function openDelivery(deps: LeaderDeps, state: State, broker: BrokerWays, stack: StopStack) {
  const { config, log, clock, pool, peers } = deps;
  const { board, openRequests, feed, answers, tally, presences, queries, shards, deadlines, lockouts } = state;
  const { wire } = broker;
  const situationOf = situationIn({ state, openOf: (channel) => shards.openOf(channel) });
  const accept: Accept = (intent, asker) =>
    shards.only?.submission.accept(intent, asker) ??
    shards.forIntent(intent, asker).then(({ submission }) => submission.accept(intent, asker));
  const decline: RequestSubmission["decline"] = async (intent, asker, refusal) => {
    for (;;) {
      try {
        return await shards.any().submission.decline(intent, asker, refusal);
      } catch (error) {
        if (!(error instanceof LanesMoved)) throw error;
      }
    }
  };
  const here = createAsk({ accept, answers, openRequests, board, queries });
  const { ask, askBriefly, follow } = createAskAnywhere({ pool, board, shards, peers, openRequests, here });
  const status = new Status({
    clock,
    pool,
    links: shards,
    board,
    feed,
    openRequests,
    tally,
    writeTrouble: () => state.writers.trouble ?? shards.leaseTrouble,
    missing: () => peers.missing,
  });
  const linkEvents = new EventEmitter<{ up: [] }>();
  let onLinked: () => void = () => {};
  const linked = new Promise<void>((resolve) => {
    onLinked = resolve;
  });
  const watch = {
    onUp() {
      status.tellChanges();
      if (!shards.linkState.isUp) return;
      linkEvents.emit("up");
      onLinked();
    },
    onDown: () => status.tellChanges(),
  };
  const stacks = new Map<number, StopStack>();
  stack.onStop("shards", {
    drain: async () => void (await Promise.all([...stacks.values()].map((one) => one.drain()))),
    abandon: async () => void (await Promise.all([...stacks.values()].map((one) => one.abandon()))),
  });
  for (const heldLease of deps.heldLeases) await open(heldLease, sitesOfShard(board.snapshot, heldLease.shard));
  const runs = new CommissioningRuns({ clock, board, links: shards, wire, ask, presences }, pool, log);
  stack.onStop("commissioning", { drain: () => runs.stop() });
  await stack.start("status", () => status.start(), { drain: () => status.stop() });
  const jobs = new FirstJobs(shards);
  /** Whatever else goes by the shards that are led here. */
  const shardWatchers: (() => Promise<void>)[] = [() => jobs.update()];
  const tellChange = async () => {
    for (const told of shardWatchers) await told();
  };
  let endTidying = () => {};
  jobs.add({
    start() {
      endTidying = keepTidy(config, pool, clock, log);
    },
    stop: () => endTidying(),
  });
  stack.onStop("housekeeping", { drain: () => endTidying() });
  const close = createClose(openRequests, shards, answers);
  return {
    here,
    jobs,
    shardWatchers,
    situationOf,
    ask,
    askBriefly,
    follow,
    decline,
    status,
    runs,
    close,
    linkEvents,
    linked,
    takeUp,
    leave,
    moveSite,
  };

  /**
   * The lanes of a site go to another shard: what is being written is finished, what is open goes on there.
   *
   * @param record puts it on record, in the same transaction
   * @throws RelayError service-busy while another instance leads its shard
   */
  async function moveSite(site: string, to: number, record: (db: Db) => Promise<void>): Promise<void> {
    await shards.standing(site);
    const from = shards.ofSite(site);
    if (from.heldLease.shard === to) return;
    const work = moveFrom(from, site, async (db) => {
      await saveShardOfSite(db, site, to, from.heldLease.epoch);
      await record(db);
    });
    shards.noteMove(site, work);
    await work;
  }

  async function moveFrom(from: LedShard, site: string, save: (db: Db) => Promise<void>): Promise<void> {
    const { shard } = from.heldLease;
    const isLed = () => shards.leads(shard);
    const onTrouble = (error: unknown) => log.warn({ err: error, site }, "it is unknown to which shard a site belongs");
    // Whoever takes it up reads those that hold.
    await lockouts.settled();
    await from.letGoSite(site);
    const failure = await inTransaction(pool, save).then(
      () => null,
      (error: Error) => error,
    );
    // When the connection broke nobody knows whether it was kept: what the database says once that is over counts.
    await untilDone(
      async () => {
        if (failure !== null) await inTransaction(pool, (db) => awaitShardOfSite(db, site));
        await state.follow.follow();
      },
      isLed,
      onTrouble,
    );
    if (shardOfSite(board.snapshot, site) !== shard) return;
    await untilDone(() => from.takeUpSites([site]), isLed, onTrouble);
    if (failure !== null) throw failure;
  }

  /** @param sites of the shard, of which the board has what the database has */
  async function open(heldLease: HeldLease, sites: ReadonlySet<string>): Promise<void> {
    const own = new StopStack(log, deps.onStarted);
    stacks.set(heldLease.shard, own);
    const shard = await openShard(deps, state, broker, heldLease, sites, watch, own);
    shards.add(shard);
    // Since it was begun a site may have come to it, or be made of something else.
    const late = [...sitesOfShard(board.snapshot, heldLease.shard)].filter((site) => !sites.has(site));
    if (late.length > 0)
      shards.moved(late, (error) => log.warn({ err: error, late }, "sites could not be taken up so far"));
    shard.listen(board.snapshot, () => false);
  }

  /** One more shard is led from now on. @throws what a part of it fails with; what was started of it is stopped by then */
  async function takeUp(heldLease: HeldLease): Promise<void> {
    await state.follow.follow();
    const { shard, restored } = heldLease;
    const isOwn = (channel: ChannelId) => shardOfChannel(board.snapshot, channel) === shard;
    const sites = sitesOfShard(board.snapshot, shard);
    await state.readAgain(isOwn, restored);
    try {
      await open(heldLease, sites);
      // Now, for other instances are told of channels only by whoever leads them.
      await state.announce(isOwn);
      await tellChange();
    } catch (error) {
      await leave(heldLease.shard, "abandon");
      throw error;
    }
  }

  /**
   * A shard is led no longer: what is asked of it from now on goes elsewhere, and so does what is open.
   *
   * @param how drain: what is being written is finished first; abandon: another instance leads it already
   */
  async function leave(shard: number, how: "drain" | "abandon"): Promise<void> {
    const isGone = (channel: ChannelId) => shardOfChannel(board.snapshot, channel) === shard;
    const led = shards.all.find(({ heldLease }) => heldLease.shard === shard);
    shards.remove(shard);
    answers.wake(openRequests.idsFor(isGone));
    // Whoever leads it already may tell of it from now on: that must not be forgotten again.
    if (how === "abandon") unhear();
    const own = stacks.get(shard);
    stacks.delete(shard);
    await tellChange().catch((error: unknown) => log.warn({ err: error, shard }, "not all of a shard has stopped"));
    // What cannot be written in time goes on at the next leader.
    const giveUp = setTimeout(() => {
      led?.writers.accept.abandon();
      led?.writers.settle.abandon();
    }, limits.drainMs);
    await own?.[how]();
    clearTimeout(giveUp);
    openRequests.drop(isGone);
    if (how === "drain") unhear();

    function unhear(): void {
      for (const { id, device } of board.snapshot.channels) {
        if (!isGone(id) || shards.leads(shard)) continue;
        board.unhear(id);
        presences.forget(device.address);
        deadlines.forget(id);
        feed.channelChanged(id);
      }
    }
  }
}
