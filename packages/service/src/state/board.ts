/**
 * What every channel was last told and what it was last seen to be: the in-memory picture that screens are drawn from. Long because each
 * fact has its reader and its writer here, and what follows from several of them.
 */
import {
  type Agreement,
  acceptedFor,
  agreement,
  type ChannelEntry,
  type ChannelId,
  type Command,
  isAsCommanded,
  kindOf,
  lastSentAt,
  leavesDoubt,
  type Observed,
  READ,
  type Report,
  type Snapshot,
  type StateAge,
  type StateDoubt,
  sourcesOf,
  stateAgeOf,
  type Value,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { ObservedRecord } from "../store/channel-state.ts";
import type { CommandRecord, RequestRecord } from "../store/find-requests.ts";
import type { ChannelFacts, Concern, LastCommand, Presence, Taken } from "./channel-facts.ts";
import { commandRecord } from "./open-requests.ts";

export class Board {
  /** What all sites are made of, as it is now: look at it anew each time. */
  snapshot: Snapshot;
  private readonly clock: Clock;
  private readonly concerns = new Map<ChannelId, readonly Concern[]>();
  private readonly taken = new Map<ChannelId, Taken>();
  private readonly before = new Map<ChannelId, Value>();
  private readonly handAt = new Map<ChannelId, number>();
  private readonly observed = new Map<ChannelId, Observed>();
  private readonly commanded = new Map<ChannelId, LastCommand>();
  private readonly presences = new Map<string, Presence>();
  /** What was heard last of a channel since the link and its device stood. */
  private readonly heard = new Map<ChannelId, { readonly live: boolean }>();
  /** When a channel was last heard live, ms since 1970. */
  private readonly liveAt = new Map<ChannelId, number>();
  /** What has put the last word on a channel in doubt since. */
  private readonly doubts = new Map<ChannelId, StateDoubt>();
  private readonly levels = new Map<ChannelId, Value>();
  /** What devices say of their own outputs, where something else tells the state. */
  private readonly claims = new Map<ChannelId, { readonly value: Value; readonly since: number }>();

  constructor(snapshot: Snapshot, clock: Clock) {
    this.snapshot = snapshot;
    this.clock = clock;
  }

  /** IANA time zone of a site; null: its description has none. */
  zoneOf(site: string): string | null {
    return this.snapshot.sites.find(({ slug }) => slug === site)?.timeZone ?? null;
  }

  /** ms since 1970. */
  now(): number {
    return this.clock.now();
  }

  /** Takes on a changed model. What is known of channels that stay is kept; what is gone is forgotten. */
  adopt(snapshot: Snapshot): void {
    for (const { id } of this.snapshot.channels) {
      if (!snapshot.byId.has(id)) this.forget(id);
    }
    for (const device of this.presences.keys()) if (!snapshot.byDevice.has(device)) this.presences.delete(device);
    this.snapshot = snapshot;
  }

  /** Reads back what was known at the last stop. A clock that was set back since must not put it in the future. */
  remember({ channelId, before, handAt, ...observed }: ObservedRecord): void {
    const at = Math.min(observed.at, this.clock.now());
    this.observed.set(channelId, { ...observed, at });
    if (observed.cause !== "retained") this.liveAt.set(channelId, at);
    if (before !== null) this.before.set(channelId, before);
    if (handAt !== null) this.handAt.set(channelId, handAt);
  }

  /**
   * A channel was heard to be so. A retained message that says what was heard live before is that same word: its device would
   * have replaced it.
   */
  hear(channel: ChannelId, value: Value, { live, waited }: Pick<Report, "live" | "waited">): void {
    // What waited at the broker may be older than what put it in doubt.
    if (live && !waited) this.doubts.delete(channel);
    const known = this.observed.get(channel);
    const isOldWord = !live && known?.value === value && known.cause !== "retained";
    this.heard.set(channel, { live: live || isOldWord });
    // Of what waited nobody knows when it was said.
    if (live && !waited) this.liveAt.set(channel, this.clock.now());
  }

  /** All that is known of a channel, as another instance may take it over. */
  factsOf(channel: ChannelId): ChannelFacts {
    return {
      observed: this.observedOf(channel),
      before: this.beforeOf(channel),
      handAt: this.handAtOf(channel),
      heard: this.heard.get(channel) ?? null,
      doubt: this.doubts.get(channel) ?? null,
      liveAt: this.liveAt.get(channel) ?? null,
      level: this.lastLevelOf(channel),
      claim: this.claims.get(channel) ?? null,
      concerns: this.concernsOf(channel),
      taken: this.lastTakenOf(channel),
      commanded: this.lastCommandOf(channel),
    };
  }

  /** Takes on what the instance knows of a channel that looks after it. */
  setFacts(channel: ChannelId, facts: ChannelFacts): void {
    put(this.observed, channel, facts.observed);
    put(this.before, channel, facts.before);
    put(this.handAt, channel, facts.handAt);
    put(this.heard, channel, facts.heard);
    put(this.doubts, channel, facts.doubt);
    put(this.liveAt, channel, facts.liveAt);
    put(this.levels, channel, facts.level);
    put(this.claims, channel, facts.claim);
    put(this.concerns, channel, facts.concerns);
    put(this.taken, channel, facts.taken);
    put(this.commanded, channel, facts.commanded && { command: facts.commanded, request: null });
  }

  /** Its device went, came back or started anew: its last word no longer counts until it speaks again. */
  unhear(channel: ChannelId): void {
    this.heard.delete(channel);
    for (const watcher of this.snapshot.watchers.get(channel) ?? []) this.heard.delete(watcher.id);
  }

  /** What is known of a channel does not count any more, until it is heard again. */
  putInDoubt(channel: ChannelId, why: StateDoubt): void {
    this.doubts.set(channel, why);
  }

  /** Takes back what is known of a channel, for somebody else has told it what it is since. */
  forget(channel: ChannelId): void {
    for (const known of [this.concerns, this.taken, this.before, this.handAt, this.observed, this.commanded])
      known.delete(channel);
    for (const known of [this.heard, this.liveAt, this.claims, this.levels, this.doubts]) known.delete(channel);
  }

  /** What its device last said that a channel is, if it would have told of any change since; null when nobody can say. */
  knownOf(channel: ChannelId): Value | null {
    const heard = this.heard.get(channel);
    if (!heard || this.doubts.has(channel)) return null;
    const entry = this.snapshot.byId.get(channel);
    // One more impulse on what is only remembered would be a guess, unless the device stands by its word.
    if (!heard.live && entry && entry.drive !== "set" && this.onlineOf(entry) !== true) return null;
    return this.observedOf(channel)?.value ?? null;
  }

  /**
   * What a channel is to be left as by a message that tells other channels of its board as well: what it is known to be. In doubt since
   * a command, that command once more; where the board reports nothing, what was last written, else at rest. null: nobody can say.
   */
  keptAs(entry: ChannelEntry): Value | null {
    // Where something else sees the channel, its own output may differ from that: a lamp that is broken.
    const known = entry.seenBy === null ? this.knownOf(entry.id) : this.claimOf(entry.id);
    if (known !== null) return known;
    const isSilent = entry.topics.is === null;
    if (!isSilent && this.doubts.get(entry.id) !== "unproven") return null;
    return this.lastWrittenOf(entry.id) ?? (isSilent ? kindOf(entry.kind).rest : null);
  }

  /**
   * The newest setpoint that a channel may have: one that was never written, or that nobody heard, must not act by the message of
   * another output.
   */
  private lastWrittenOf(channel: ChannelId): Value | null {
    const last = this.lastCommandOf(channel);
    if (last !== null && last.to !== READ && last.end !== null && leavesDoubt(last)) return last.to;
    return this.taken.get(channel)?.value ?? null;
  }

  /** The best guess at what a channel is that nobody knows: what was last heard, else commanded, else at rest. */
  lastOf(entry: ChannelEntry): Value {
    return this.observedOf(entry.id)?.value ?? this.lastWrittenOf(entry.id) ?? kindOf(entry.kind).rest;
  }

  /** How far the last word on a channel still counts. */
  ageOf(entry: ChannelEntry): StateAge {
    return stateAgeOf({
      online: this.onlineOf(entry),
      heard: this.heard.get(entry.id) ?? null,
      doubt: this.doubts.get(entry.id) ?? null,
      liveAt: this.liveAt.get(entry.id) ?? null,
      reportsEveryMs: entry.policy.reportsEveryMs,
      now: this.clock.now(),
    });
  }

  /** Whether every device that tells this channel's state is on the broker, by its own word; null: not all of them say. */
  onlineOf(entry: ChannelEntry): boolean | null {
    const { byAddress } = this.snapshot;
    const sources = entry.seenBy ? sourcesOf(entry.seenBy) : [];
    const devices = sources.flatMap((path) => byAddress.get(`${entry.site.slug}/${path}`)?.device.address ?? []);
    const told = (devices.length > 0 ? devices : [entry.device.address]).map((one) => this.presenceOf(one)?.up ?? null);
    if (told.includes(false)) return false;
    return told.includes(null) ? null : true;
  }

  /** What its device says of its own output, and since when; null: it never said, or its own reports tell the state. */
  claimOf(channel: ChannelId): Value | null {
    return this.claims.get(channel)?.value ?? null;
  }

  claimedSince(channel: ChannelId): number | null {
    return this.claims.get(channel)?.since ?? null;
  }

  /** @returns whether it is news */
  setClaim(channel: ChannelId, value: Value): boolean {
    if (this.claimOf(channel) === value) return false;
    this.claims.set(channel, { value, since: this.clock.now() });
    return true;
  }

  observedOf(channel: ChannelId): Observed | null {
    return this.observed.get(channel) ?? null;
  }

  /** @param from what it was before; null when that is not known */
  setObserved(channel: ChannelId, observed: Observed, from: Value | null): void {
    this.observed.set(channel, observed);
    if (from !== null) this.before.set(channel, from);
    if (observed.cause === "hand") this.handAt.set(channel, observed.at);
  }

  /** What it was before the last change. */
  beforeOf(channel: ChannelId): Value | null {
    return this.before.get(channel) ?? null;
  }

  /** When a hand last changed it, ms since 1970. */
  handAtOf(channel: ChannelId): number | null {
    return this.handAt.get(channel) ?? null;
  }

  /** The newest level that it was commanded and took, or that it reported, before it was stopped. */
  lastLevelOf(channel: ChannelId): Value | null {
    return this.levels.get(channel) ?? null;
  }

  /** The newest setpoint that it has proven to have taken. */
  lastTakenOf(channel: ChannelId): Taken | null {
    return this.taken.get(channel) ?? null;
  }

  setTaken(channel: ChannelId, taken: Taken): void {
    if (typeof taken.value === "number") this.levels.set(channel, taken.value);
    if (taken.seq >= this.provenSeqOf(channel)) this.taken.set(channel, taken);
  }

  provenSeqOf(channel: ChannelId): number {
    return this.taken.get(channel)?.seq ?? 0;
  }

  /** The place in the lane of its newest command, while that is open; else 0. */
  openSeqOf(channel: ChannelId): number {
    const last = this.commanded.get(channel)?.command;
    return last && last.end === null ? last.seq : 0;
  }

  /** The newest command of a channel as far as its end and its hops go: without making a record of it. */
  lastEndOf(channel: ChannelId): Pick<Command, "id" | "to" | "end" | "reason" | "hops"> | null {
    return this.commanded.get(channel)?.command ?? null;
  }

  concernsOf(channel: ChannelId): readonly Concern[] {
    return this.concerns.get(channel) ?? [];
  }

  /** @returns whether it is new */
  addConcern(channel: ChannelId, concern: Concern): boolean {
    const known = this.concernsOf(channel);
    if (known.some((one) => one.kind === concern.kind)) return false;
    this.concerns.set(channel, [...known, concern]);
    return true;
  }

  /** @returns whether there was one */
  dropConcern(channel: ChannelId, kind: Concern["kind"]): boolean {
    const known = this.concernsOf(channel);
    if (known.length === 0) return false;
    const left = known.filter((one) => one.kind !== kind);
    this.concerns.set(channel, left);
    return left.length < known.length;
  }

  /** The newest command of a channel, open or ended. */
  lastCommandOf(channel: ChannelId): CommandRecord | null {
    const last = this.commanded.get(channel);
    if (!last) return null;
    return last.request ? commandRecord(last.command, last.request) : last.command;
  }

  /** Reads back what was last commanded before the start. */
  setEarlierCommand(record: CommandRecord): void {
    this.commanded.set(record.channelId, { command: record, request: null });
    this.weigh(record.channelId, record);
  }

  /** A command that ended without proof may have switched the channel since it was last heard. */
  private weigh(channel: ChannelId, command: Pick<Command, "to" | "end" | "reason" | "stage" | "hops">): void {
    if (command.end === null || !leavesDoubt(command)) return;
    const entry = this.snapshot.byId.get(channel);
    // What something else sees is told by that, whatever became of the command.
    if (!entry || entry.seenBy || !kindOf(entry.kind).repeatable) return;
    // Taken by a device that had reported just that before: whatever became of it, it is so still.
    const known = this.knownOf(channel);
    if (command.end === "delivered" && known !== null && isAsCommanded(entry, known, command.to)) return;
    if ((this.liveAt.get(channel) ?? 0) <= (lastSentAt(command) ?? 0)) this.putInDoubt(channel, "unproven");
  }

  /** Keeps the newest: evidence about an older command never hides a newer one. */
  setLastCommand(command: Command, request: RequestRecord): void {
    const { channel, seq, to, askedAt } = command;
    if (command.end === "delivered") this.setTaken(channel, { seq, value: to, at: askedAt });
    if (command.end !== null) this.weigh(channel, command);
    const known = this.commanded.get(command.channel);
    if (!known || command.seq >= known.command.seq) this.commanded.set(command.channel, { command, request });
  }

  agreementOf(channel: ChannelId): Agreement {
    const last = this.commanded.get(channel)?.command ?? null;
    const commanded = this.wantedNow(channel);
    const entry = this.snapshot.byId.get(channel);
    return agreement({
      commanded,
      observed: this.doubts.has(channel) ? null : (this.observedOf(channel)?.value ?? null),
      accepted: entry && commanded !== null ? acceptedFor(entry, commanded) : null,
      commandOpen: last !== null && last.end === null,
      settling: this.settlesAt(channel) > this.clock.now(),
    });
  }

  /** What it was last told, or off once the time is over for which it was told. */
  private wantedNow(channel: ChannelId): Value | null {
    const last = this.commanded.get(channel)?.command;
    const entry = this.snapshot.byId.get(channel);
    if (!last || !entry) return null;
    const isOver = last.forMs !== null && last.end === "delivered" && this.clock.now() >= last.askedAt + last.forMs;
    return isOver ? kindOf(entry.kind).rest : last.to;
  }

  /** Until when a level may still be on its way to what was commanded, ms since 1970; 0 when it is not. */
  settlesAt(channel: ChannelId): number {
    const last = this.commanded.get(channel)?.command;
    const policy = this.snapshot.byId.get(channel)?.policy;
    const observed = this.observed.get(channel);
    if (!last || !policy || last.end !== "delivered" || typeof last.to !== "number") return 0;
    if (observed && observed.cause !== "command" && observed.cause !== "unknown") return 0;
    return (last.hops.at(-1)?.at ?? 0) + policy.settleMs;
  }

  presenceOf(device: string): Presence | null {
    return this.presences.get(device) ?? null;
  }

  /** @returns whether anything changed */
  setPresence(device: string, presence: Presence): boolean {
    const known = this.presences.get(device);
    if (known && known.up === presence.up && known.boot === presence.boot) return false;
    this.presences.set(device, presence);
    return true;
  }

  channelsOf(device: string): readonly ChannelEntry[] {
    return this.snapshot.byDevice.get(device) ?? [];
  }
}

function put<Value>(into: Map<ChannelId, Value>, channel: ChannelId, value: Value | null): void {
  if (value === null) into.delete(channel);
  else into.set(channel, value);
}
