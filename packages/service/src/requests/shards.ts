/** The shards that this instance leads, and which of them a site or a channel belongs to. */
import { setTimeout as pause } from "node:timers/promises";

import type { Asker } from "@bold-relay/core";
import { type ChannelId, type Command, guard, type Intent, type LaneEvent, type Snapshot } from "@bold-relay/core";
import type { Link } from "../broker/link.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import { changingHands } from "../peers/prove-peer.ts";
import { limits } from "../platform/config/limits.ts";
import { isUndivided, shardOfChannel, shardOfSite } from "../state/site-shards.ts";
import type { HeldLease } from "../store/leases.ts";
import type { ShardWriters } from "../store/writers.ts";
import { LanesMoved, type RequestSubmission } from "./submit.ts";
import { withTime } from "./with-time.ts";

/** A shard, as whoever dispatches to it sees it. */
export interface LedShard {
  readonly heldLease: HeldLease;
  readonly lanes: LaneRunner;
  readonly link: Link;
  readonly submission: RequestSubmission;
  readonly writers: ShardWriters;
  /** Listens to what its sites need from now on; see `Link.listen`. */
  readonly listen: (snapshot: Snapshot, again: (filter: string) => boolean) => void;
  /** Goes on with what is open at sites that have come to this shard. */
  readonly takeUpSites: (sites: readonly string[]) => Promise<void>;
  /** Lets go of the lanes of sites that belong to another shard. */
  readonly dropSites: (sites: readonly string[]) => void;
  /** Takes nothing new: another instance is to lead it. */
  readonly close: () => void;
  /** Finishes what is being written of a site, and lets go of its lanes: it goes to another shard. */
  readonly letGoSite: (site: string) => Promise<void>;
}

/** How the way to the broker is. */
export type LinkState = Pick<Link, "isUp" | "downMs" | "roundTripMs" | "trouble">;

/** How soon sites are taken up again where it failed, ms. */
const AGAIN_MS = 250;
const NO_LINK: LinkState = { isUp: false, downMs: 0, roundTripMs: null, trouble: "not connected so far" };

export class Shards {
  private readonly model: { readonly snapshot: Snapshot };
  private readonly led = new Map<number, LedShard>();
  /** Sites whose lanes are on their way from one shard to another: what is asked of them waits. */
  private readonly moving = new Map<string, Promise<void>>();

  /** @param model looked at anew each time */
  constructor(model: { readonly snapshot: Snapshot }) {
    this.model = model;
  }

  get all(): readonly LedShard[] {
    return [...this.led.values()];
  }

  add(shard: LedShard): void {
    this.led.set(shard.heldLease.shard, shard);
  }

  remove(shard: number): void {
    this.led.get(shard)?.close();
    this.led.delete(shard);
  }

  leads(shard: number): boolean {
    return this.led.has(shard);
  }

  /** @throws RelayError service-busy while another instance leads its shard */
  ofSite(site: string): LedShard {
    return this.led.get(shardOfSite(this.model.snapshot, site)) ?? elsewhere();
  }

  /** null: another instance leads its shard. */
  private ofChannel(channel: ChannelId): LedShard | null {
    return this.led.get(shardOfChannel(this.model.snapshot, channel)) ?? null;
  }

  /** The newest open setpoint of a channel, as far as its lane is here. */
  openOf(channel: ChannelId): Command | null {
    return this.ofChannel(channel)?.lanes.openOf(channel) ?? null;
  }

  dispatch(channel: ChannelId, event: LaneEvent): void {
    this.ofChannel(channel)?.lanes.dispatch(channel, event);
  }

  /** Proves that this instance leads the lanes of a site. @throws RelayError service-busy while it does not, or they are on their way */
  epochOf(site: string): number {
    return this.moving.has(site) ? elsewhere() : this.ofSite(site).heldLease.epoch;
  }

  /** What is asked of a site waits until this is over. */
  noteMove(site: string, work: Promise<unknown>): void {
    const over = Promise.allSettled([work, this.moving.get(site)]).then(() => {
      if (this.moving.get(site) === over) this.moving.delete(site);
    });
    this.moving.set(site, over);
  }

  /** The only one that there is; null where sites are spread over several. */
  get only(): LedShard | null {
    return isUndivided(this.model.snapshot) && this.moving.size === 0 ? (this.led.get(0) ?? null) : null;
  }

  /**
   * The one whose lanes are asked, once they stand; of what names nothing, any will do.
   *
   * @throws LanesMoved while another instance leads it
   * @throws RelayError service-busy while none is led here
   */
  async forIntent(intent: Intent, asker: Asker): Promise<LedShard> {
    const shard = await this.placeOf(intent, asker);
    if (shard === null) return this.any();
    const led = this.led.get(shard);
    if (!led) throw new LanesMoved();
    return led;
  }

  /** The number of the shard that is asked, once its lanes stand; null: what is asked names nothing. */
  async placeOf(intent: Intent, asker: Asker): Promise<number | null> {
    const site = siteOf(this.model.snapshot, intent, asker);
    if (site === null) return null;
    await this.standing(site);
    return shardOfSite(this.model.snapshot, site);
  }

  /** Resolves once the lanes of a site stand. @throws RelayError service-busy when that takes too long */
  async standing(site: string): Promise<void> {
    for (let move = this.moving.get(site); move; move = this.moving.get(site))
      await withTime(move, limits.leaderWithinMs, changingHands);
  }

  /** What is asked of channels of several sites is several requests where their lanes are apart. */
  split(intent: Intent): Intent[] {
    const { among } = intent;
    const { snapshot } = this.model;
    if (!among || isUndivided(snapshot)) return [intent];
    // By site, for that stays: a call that is repeated after a site has moved must be known again.
    const bySite = new Map<string, ChannelId[]>();
    for (const channel of among) {
      const site = snapshot.byId.get(channel)?.site.slug ?? "";
      bySite.set(site, [...(bySite.get(site) ?? []), channel]);
    }
    if (bySite.size < 2) return [intent];
    const own = (name: string | null | undefined, site: string) => (name ? `${name}/${site}` : null);
    return [...bySite].map(([site, channels]) => ({
      ...intent,
      among: channels,
      repeatKey: own(intent.repeatKey, site),
      delivery: own(intent.delivery, site),
    }));
  }

  /** Sites have another shard since: those that have come to one of these are taken up. */
  moved(sites: readonly string[], onTrouble: (error: unknown) => void): void {
    for (const shard of this.led.values()) {
      const isOwn = (site: string) => shardOfSite(this.model.snapshot, site) === shard.heldLease.shard;
      const own = sites.filter(isOwn);
      // Nothing of a site is written by two, whoever moved it.
      shard.dropSites(sites.filter((site) => !isOwn(site)));
      if (own.length === 0) continue;
      const work = untilDone(
        () => shard.takeUpSites(own),
        () => this.led.get(shard.heldLease.shard) === shard,
        onTrouble,
      );
      for (const site of own) this.noteMove(site, work);
    }
  }

  /** @throws RelayError service-busy while it leads none */
  any(): LedShard {
    const [first] = this.led.values();
    return first ?? elsewhere();
  }

  /** Proves to the database that this instance leads: the shards of these sites that are here, any where none is. */
  epochsOf(sites: readonly string[]): number[] {
    const here = sites.flatMap((site) => this.led.get(shardOfSite(this.model.snapshot, site)) ?? []);
    const shards = here.length === 0 ? [this.any()] : here;
    return [...new Set(shards.map(({ heldLease }) => heldLease.epoch))].sort((one, other) => one - other);
  }

  /** @param shards only these; left out: all */
  listen(snapshot: Snapshot, again: (filter: string) => boolean, shards?: ReadonlySet<number>): void {
    for (const [number, shard] of this.led) if (shards?.has(number) ?? true) shard.listen(snapshot, again);
  }

  /** Of all links together: the worst counts. */
  get linkState(): LinkState {
    let worst: LinkState | null = null;
    for (const { link } of this.led.values()) if (worst === null || link.downMs > worst.downMs) worst = link;
    return worst ?? NO_LINK;
  }

  /** @param device its address */
  linkStateOf(device: string): LinkState {
    const [site = ""] = device.split("/");
    return this.led.get(shardOfSite(this.model.snapshot, site))?.link ?? NO_LINK;
  }

  /** Why a lease could not be renewed the last time; null when all were. */
  get leaseTrouble(): string | null {
    for (const { heldLease } of this.led.values()) if (heldLease.trouble !== null) return heldLease.trouble;
    return null;
  }
}

/** The site of what is asked; null: it names nothing. */
function siteOf(snapshot: Snapshot, intent: Intent, asker: Asker): string | null {
  const { parts, site } = { site: null, ...guard(snapshot, intent, asker) };
  return parts?.[0]?.channel.site.slug ?? site;
}

/** Tries again for as long as it is wanted: the database may be away. */
export async function untilDone(
  work: () => Promise<void>,
  isWanted: () => boolean,
  onTrouble: (error: unknown) => void,
): Promise<void> {
  while (isWanted()) {
    try {
      return await work();
    } catch (error) {
      onTrouble(error);
      await pause(AGAIN_MS);
    }
  }
}

function elsewhere(): never {
  throw changingHands();
}
