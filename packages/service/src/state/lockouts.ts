/**
 * Who holds what. A hold bites before it is durable: somebody has their hands in the panel, so it is
 * better to refuse a moment too early than to switch a moment too late.
 */
import { EventEmitter } from "node:events";
import {
  type ChannelEntry,
  type ChannelId,
  type Lockout,
  nearestNames,
  RelayError,
  resolveName,
  toldWith,
  twinsOf,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import { newId } from "../platform/id.ts";
import type { Board } from "../state/board.ts";
import { type LockoutRecord, type LockoutTarget, releaseLockout, saveLockout } from "../store/lockouts.ts";
import type { Db } from "../store/pool.ts";

export interface LockoutsDeps {
  readonly clock: Clock;
  /** Proves that this instance holds the lanes of a site. @throws RelayError while it does not */
  readonly epochOf: (site: string) => number;
  readonly board: Board;
}

interface LockoutCaller {
  readonly memberId: number;
  readonly name: string;
  /** The sites at which they may hold; null: every site. */
  readonly sites: readonly string[] | null;
  readonly change: Change;
}

/** Stores what somebody does, if they still may. */
export type Change = <Result>(store: (db: Db) => Promise<Result>) => Promise<Result>;

interface LockoutEvents {
  /** From this moment nothing may be written to the channel; before the lock-out is durable. */
  locked: [ChannelId];
  /** Something about the channel's lock-out is otherwise, for whoever shows it. */
  changed: [ChannelId];
}

export class Lockouts {
  readonly events = new EventEmitter<LockoutEvents>();
  private readonly deps: LockoutsDeps;
  /** Lock-outs on their way to the database. */
  private readonly saving = new Set<Promise<boolean>>();
  private readonly active = new Map<string, LockoutRecord>();
  /** The lock-out that holds each channel: its own before its device's. */
  private byChannel = new Map<ChannelId, LockoutRecord>();

  constructor(deps: LockoutsDeps, active: readonly LockoutRecord[]) {
    this.deps = deps;
    for (const record of active) this.active.set(record.id, record);
    this.index();
  }

  /** The hold on this channel; null when it is free. */
  of(channel: ChannelId): Lockout | null {
    return this.byChannel.get(channel) ?? null;
  }

  /** Every channel that is locked out. */
  get channels(): ChannelId[] {
    return [...this.byChannel.keys()];
  }

  get isAny(): boolean {
    return this.byChannel.size > 0;
  }

  /**
   * Takes a channel or a device, by name or address.
   *
   * @throws RelayError unknown-channel, ambiguous-name or already-locked-out
   */
  async lock(name: string, by: LockoutCaller, reason: string | null): Promise<Lockout> {
    const { clock } = this.deps;
    const { name: holder, memberId: holderId } = by;
    const target = this.targetOf(name, by.sites);
    const wholeDevice = "deviceId" in target;
    const record: LockoutRecord = { id: newId(), holder, holderId, reason, wholeDevice, since: clock.now(), ...target };
    const standing = [...this.active.values()].find((one) => sameTarget(one, record));
    if (standing) throw new RelayError("already-locked-out", { target: name, holder: standing.holder });
    const epoch = this.epochFor(record);
    this.put(record);
    for (const { id: channel } of this.channelsOf(record)) this.events.emit("locked", channel);
    try {
      if (!(await this.saved(by.change((db) => saveLockout(db, record, epoch)))))
        throw new RelayError("already-locked-out", { target: name, holder: "somebody" });
    } catch (error) {
      this.drop(record);
      throw error;
    }
    return record;
  }

  /**
   * Lets go. The holder may at any time, an owner of the team with a reason.
   *
   * @throws RelayError not-found, not-permitted or release-needs-reason
   */
  async release(id: string, by: LockoutCaller & { mayOverrule: boolean }, reason: string | null): Promise<void> {
    const record = this.active.get(id);
    if (!record || !this.isAt(record, by.sites))
      throw new RelayError("not-found", { what: "A lock-out that holds, with this id," });
    const { holder, holderId } = record;
    const isHolder = holderId === by.memberId;
    if (!isHolder && !by.mayOverrule) {
      throw new RelayError("not-permitted", {
        why: `This is ${holder}'s lock-out: only ${holder} or an owner may release it`,
      });
    }
    if (!isHolder && reason === null) throw new RelayError("release-needs-reason", { holder });
    const epoch = this.epochFor(record);
    await by.change((db) => releaseLockout(db, id, by.name, reason, epoch));
    this.drop(record);
  }

  /** Resolves when those taken so far are durable, or refused: whoever reads the database then finds them. */
  async settled(): Promise<void> {
    await Promise.allSettled(this.saving);
  }

  private async saved(saving: Promise<boolean>): Promise<boolean> {
    this.saving.add(saving);
    try {
      return await saving;
    } finally {
      this.saving.delete(saving);
    }
  }

  /** The slug of the site of a channel or a device. @throws RelayError unknown-channel or ambiguous-name */
  siteNamed(name: string, sites: readonly string[] | null): string | null {
    return this.channelsOf(this.targetOf(name, sites))[0]?.site.slug ?? null;
  }

  /** The slug of the site of a lock-out; null: it does not hold. */
  siteOf(id: string): string | null {
    const record = this.active.get(id);
    return record ? (this.channelsOf(record)[0]?.site.slug ?? null) : null;
  }

  /** Takes on what the database has of channels that other instances look after. @param isOwn what is known here counts */
  follow(records: readonly LockoutRecord[], isOwn: (channel: ChannelId) => boolean): void {
    const isHere = (record: LockoutTarget) => this.channelsOf(record).some(({ id }) => isOwn(id));
    const standing = new Set(records.map(({ id }) => id));
    const gone = [...this.active.values()].filter((one) => !standing.has(one.id) && !isHere(one));
    const come = records.filter((one) => !this.active.has(one.id) && !isHere(one));
    for (const { id } of gone) this.active.delete(id);
    for (const record of come) this.active.set(record.id, record);
    this.index();
    for (const record of [...gone, ...come])
      for (const { id } of this.channelsOf(record)) this.events.emit("changed", id);
  }

  /** The model has changed: a device that is held may have other channels now. */
  refresh(): void {
    this.index();
  }

  private epochFor(target: LockoutTarget): number {
    return this.deps.epochOf(this.channelsOf(target)[0]?.site.slug ?? "");
  }

  private isAt(target: LockoutTarget, sites: readonly string[] | null): boolean {
    return sites === null || this.channelsOf(target).some(({ site }) => sites.includes(site.slug));
  }

  private targetOf(name: string, sites: readonly string[] | null): LockoutTarget {
    const { snapshot } = this.deps.board;
    const ofDevice = snapshot.byDevice.get(name.trim())?.[0];
    if (ofDevice && (sites === null || sites.includes(ofDevice.site.slug))) return { deviceId: ofDevice.device.id };
    const resolution = resolveName(snapshot, name, sites);
    if ("found" in resolution) return { channelId: resolution.found.id };
    if ("ambiguous" in resolution) {
      const nearest = resolution.ambiguous.slice(0, 10);
      throw new RelayError("ambiguous-name", { target: name, nearest });
    }
    const nearest = nearestNames(snapshot, name, sites);
    throw new RelayError("unknown-channel", { target: name, nearest });
  }

  /**
   * What a lock-out holds; what it names last. It holds an output: where one message tells several, none of them may be written, and no
   * channel that moves the same one under another name.
   */
  private channelsOf(target: LockoutTarget): ChannelEntry[] {
    const { snapshot } = this.deps.board;
    const channel = "channelId" in target ? snapshot.byId.get(target.channelId as ChannelId) : undefined;
    const named =
      "deviceId" in target
        ? snapshot.channels.filter(({ device }) => device.id === target.deviceId)
        : [channel ?? []].flat();
    const beside = named.flatMap((one) => [...toldWith(one, snapshot), ...twinsOf(one, snapshot)]);
    const names = new Set(named);
    return [...new Set(beside)].filter((one) => !names.has(one)).concat(named);
  }

  private put(record: LockoutRecord): void {
    this.active.set(record.id, record);
    this.changed(record);
  }

  private drop(record: LockoutRecord): void {
    this.active.delete(record.id);
    this.changed(record);
  }

  private changed(record: LockoutRecord): void {
    this.index();
    for (const { id } of this.channelsOf(record)) this.events.emit("changed", id);
  }

  private index(): void {
    const records = [...this.active.values()];
    const byWidth = [...records.filter((one) => "deviceId" in one), ...records.filter((one) => "channelId" in one)];
    const held = byWidth.flatMap((record) => this.channelsOf(record).map(({ id }) => [id, record] as const));
    // Its own before that of another output that is told by the same message.
    const isOwn = ([id, record]: (typeof held)[number]) => "channelId" in record && record.channelId === id;
    this.byChannel = new Map([...held, ...held.filter(isOwn)]);
  }
}

function sameTarget(one: LockoutTarget, other: LockoutTarget): boolean {
  if ("channelId" in one) return "channelId" in other && one.channelId === other.channelId;
  return "deviceId" in other && one.deviceId === other.deviceId;
}
