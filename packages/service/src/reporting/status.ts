/** Is each part alive, and how is it going: for the status command, the console's corner and the health address. */
import { type PartStatus, type StatusView, VERSION } from "@bold-relay/api";
import { type ChannelEntry, devicePresence, isChannelOn, presenceSource } from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import { BUILD } from "../platform/version.ts";
import type { Shards } from "../requests/shards.ts";
import type { Board } from "../state/board.ts";
import type { DayTally } from "../state/day-tally.ts";
import type { Feed } from "../state/live-feed.ts";
import type { OpenRequests } from "../state/open-requests.ts";
import { databaseTrouble } from "../store/database-trouble.ts";
import type { Pool } from "../store/pool.ts";

const LOOK_EVERY_MS = 2_000;

export interface StatusDeps {
  readonly clock: Clock;
  readonly pool: Pool;
  readonly links: Pick<Shards, "linkState">;
  readonly board: Board;
  readonly feed: Feed;
  readonly openRequests: OpenRequests;
  readonly tally: DayTally;
  /** Why what writes to the database cannot just now; null when it can. */
  readonly writeTrouble: () => string | null;
  /** Names of instances that lead and of which nothing is heard. */
  readonly missing: () => string[];
}

export class Status {
  private readonly deps: StatusDeps;
  private readonly startedAt: number;
  private database: PartStatus = { up: true, roundTripMs: null, trouble: null };
  private told = "";
  private timer: NodeJS.Timeout | null = null;

  constructor(deps: StatusDeps) {
    this.deps = deps;
    this.startedAt = deps.clock.now();
  }

  /** Looks at the journal from time to time, so that an idle service knows too. */
  start(): void {
    this.timer = setInterval(() => void this.look(), LOOK_EVERY_MS);
    void this.look();
  }

  stop(): void {
    if (this.timer) clearInterval(this.timer);
  }

  /** What of the channels and devices is not as it should be. */
  troubles(channels: readonly ChannelEntry[] = this.deps.board.snapshot.channels) {
    const { board } = this.deps;
    const devices = new Map(channels.map((channel) => [channel.device.address, presenceSource(channel)]));
    const presence = { online: 0, offline: 0, "never-heard": 0, "not-watched": 0 };
    for (const [device, topic] of devices) presence[devicePresence(board.presenceOf(device)?.up ?? null, topic)] += 1;
    return {
      devices: devices.size,
      presence,
      drifting: channels.filter(({ id }) => board.agreementOf(id) === "drift").length,
      unknown: channels.filter((channel) => !isKnownNow(channel, board)).length,
    };
  }

  /** Why the database cannot be read or written; null when it can. */
  get databaseTrouble(): string | null {
    return this.partStatus().database.trouble;
  }

  /** What must come back before requests can reach their target stage. */
  waitsFor(): string[] {
    const { broker, database } = this.partStatus();
    return [...(broker.up ? [] : ["broker"]), ...(database.up ? [] : ["database"])];
  }

  /** Tells the live feed when the broker, the database or another instance came or went. */
  tellChanges(): void {
    const parts = this.partStatus();
    const missing = this.deps.missing();
    const state = [parts.broker.up, parts.database.up, ...missing].join(" ");
    if (state === this.told) return;
    this.told = state;
    this.deps.feed.tell({ event: { name: "status", data: { ...parts, missing } }, sites: null });
  }

  /** @param sites whose channels are counted; null: all of them */
  view(sites: readonly string[] | null): StatusView {
    const { board, openRequests, tally } = this.deps;
    const channels = board.snapshot.channels.filter(({ site }) => sites === null || sites.includes(site.slug));
    const on = channels.filter((channel) => {
      const observed = board.observedOf(channel.id);
      return observed !== null && isKnownNow(channel, board) && isChannelOn(channel, observed.value);
    });
    const { devices, presence, drifting, unknown } = this.troubles(channels);
    return {
      version: VERSION,
      build: BUILD,
      startedAt: new Date(this.startedAt).toISOString(),
      ...this.partStatus(),
      counts: {
        sites: board.snapshot.sites.filter(({ slug }) => sites === null || sites.includes(slug)).length,
        devices,
        presence,
        channels: channels.length,
        on: on.length,
        drifting,
        unknown,
        openCommands: sites === null ? openRequests.size : openRequests.openFor(channels.map(({ id }) => id)).length,
      },
      lastDay: tally.lastDay(sites),
      missing: this.deps.missing(),
    };
  }

  private partStatus(): Pick<StatusView, "broker" | "database"> {
    const link = this.deps.links.linkState;
    const trouble = this.deps.writeTrouble() ?? this.database.trouble;
    return {
      broker: { up: link.isUp, roundTripMs: rounded(link.roundTripMs), trouble: link.isUp ? null : link.trouble },
      database: { up: trouble === null, roundTripMs: rounded(this.database.roundTripMs), trouble },
    };
  }

  private async look(): Promise<void> {
    const startedAt = performance.now();
    try {
      await this.deps.pool.query("select 1");
      this.database = { up: true, roundTripMs: performance.now() - startedAt, trouble: null };
    } catch (error) {
      this.database = { up: false, roundTripMs: null, trouble: databaseTrouble(error) };
    }
    this.tellChanges();
  }
}

/** What is old, or of unknown age, is not known now. */
function isKnownNow(channel: ChannelEntry, board: Board): boolean {
  return board.observedOf(channel.id) !== null && board.ageOf(channel).stale === null;
}

function rounded(ms: number | null): number | null {
  return ms === null ? null : Math.round(ms * 100) / 100;
}
