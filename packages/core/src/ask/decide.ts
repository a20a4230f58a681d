/**
 * From what is wished of each channel to the absolute setpoints that are ordered, made at the moment when nothing
 * else can come between: "brighter by 10", asked three times quickly, is 30 brighter. Pure.
 */
import { kindOf, kindOfChannel } from "../channel/index.ts";
import { clampLevel } from "../channel/kind.ts";
import { isMidway, isOn, READ, type Value } from "../channel/value.ts";
import type { BlockReason } from "../delivery/command-event.ts";
import { type ErrorCode, RelayError } from "../errors/relay-error.ts";
import type { ChannelId } from "../id.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import type { Interlock, Snapshot } from "../site/snapshot.ts";
import type { Lockout } from "../state/lockout.ts";
import type { Part, Wish } from "./guard.ts";

/** What is known of a channel at the moment of deciding. */
export interface Situation {
  readonly lockout: Lockout | null;
  /** The newest setpoint that is open. */
  readonly open: Value | null;
  /** What the device says it is, if that is still its word. */
  readonly known: Value | null;
  /** What it was before the last change. */
  readonly before: Value | null;
  /** Whether the device is on the broker, by its own word. */
  readonly online: boolean | null;
}

/** One absolute setpoint that is ordered. */
export interface Order {
  readonly channel: ChannelEntry;
  readonly to: Value;
  readonly urgent: boolean;
  readonly forMs: number | null;
  /** How long it may wait for its interlocked partners to be seen off, ms; null: it has none. */
  readonly clearWithinMs: number | null;
  /** Of a group or scene: this member cannot be had, and its command ends at once with this reason. */
  readonly blocked: BlockReason | null;
}

/**
 * @param situationOf what is known of each channel now
 * @throws RelayError when a single channel may not be had; a member of a group is doomed instead, the others go on
 */
export function decide(
  snapshot: Snapshot,
  parts: readonly Part[],
  bundle: Bundle | null,
  situationOf: (channel: ChannelId) => Situation,
): Order[] {
  return new Decision(snapshot, bundle, situationOf).make(parts);
}

/** One decision in the making. Never leaves this file. */
class Decision {
  private readonly orders = new Map<ChannelId, Order>();
  private readonly snapshot: Snapshot;
  private readonly bundle: Bundle | null;
  private readonly situationOf: (channel: ChannelId) => Situation;
  private allOff = false;

  constructor(snapshot: Snapshot, bundle: Bundle | null, situationOf: (channel: ChannelId) => Situation) {
    this.snapshot = snapshot;
    this.bundle = bundle;
    this.situationOf = situationOf;
  }

  make(parts: readonly Part[]): Order[] {
    this.allOff = this.bundle !== null && anyToggledOn(parts, this.situationOf);
    for (const part of parts) for (const order of this.take(part)) this.orders.set(order.channel.id, order);
    return [...this.orders.values()];
  }

  /** What cannot be had is refused, or doomed where it is one of many. */
  private take(part: Part): Order[] {
    try {
      return this.ordersOf(part);
    } catch (error) {
      const reason = error instanceof RelayError && this.bundle ? DOOMS[error.code] : undefined;
      if (reason === undefined) throw error;
      const { channel, wish } = part;
      const to = wish.asks === "to" ? wish.to : (this.situationOf(channel.id).known ?? kindOf(channel.kind).rest);
      return [{ ...plain(part, to), blocked: reason }];
    }
  }

  private ordersOf(part: Part): Order[] {
    const { channel, wish } = part;
    const situation = this.situationOf(channel.id);
    refuseHeld(channel, situation);
    const asOne = this.bundle !== null && wish.asks === "toggle";
    const to = asOne ? this.together(channel) : setpointOf(channel, wish, situation);
    if (channel.drive !== "set" && to !== READ && situation.known === null)
      throw new RelayError("state-unknown", { target: channel.address, device: channel.device.name });
    if (channel.drive !== "set" && to !== READ && situation.known !== null && isMidway(situation.known))
      throw new RelayError("midway", { target: channel.address });
    const order = plain(part, to);
    if (!isOn(to) && to !== "pulse") return [{ ...order, forMs: null }];
    const interlocks = this.snapshot.interlocks.get(channel.id) ?? [];
    if (interlocks.length === 0) return [order];
    const first = interlocks.flatMap((interlock) => this.partnersOff(channel, interlock));
    return [...first, this.gated(order, interlocks)];
  }

  private together({ kind }: ChannelEntry): Value {
    return this.allOff ? kindOf(kind).rest : kindOf(kind).full;
  }

  /** What must be switched off first. A partner that nobody can say anything of counts as on. */
  private partnersOff(channel: ChannelEntry, { channels, meets }: Interlock): Order[] {
    const partners = channels.flatMap((id) => (id === channel.id ? [] : (this.snapshot.byId.get(id) ?? [])));
    return partners.flatMap((partner) => {
      const { open, known, lockout } = this.situationOf(partner.id);
      const ordered = this.orders.get(partner.id);
      const wanted = ordered?.to ?? open;
      const wantedOn = wanted !== null && isOn(wanted);
      if (known !== null && !isOn(known) && !wantedOn) return [];
      if (meets === "refuse" || lockout !== null || (ordered && wantedOn)) {
        throw new RelayError("interlocked", { target: channel.address, partner: partner.address });
      }
      if (wanted !== null && !wantedOn) return [];
      return [plain({ channel: partner, urgent: false, forMs: null }, kindOf(partner.kind).rest)];
    });
  }

  private gated(order: Order, interlocks: readonly Interlock[]): Order {
    const partners = interlocks.flatMap((interlock) => interlock.channels).filter((id) => id !== order.channel.id);
    const settles = partners.map((id) => this.snapshot.byId.get(id)?.policy.settleMs ?? 0);
    const gap = Math.max(...interlocks.map((interlock) => interlock.gapMs));
    return { ...order, clearWithinMs: Math.max(...settles, 0) + gap + order.channel.policy.ackWithinMs };
  }
}

const DOOMS: Partial<Record<ErrorCode, BlockReason>> = {
  "locked-out": "locked-out",
  interlocked: "interlocked",
  "device-absent": "device-absent",
  "nothing-to-start-from": "nothing-to-start-from",
  "state-unknown": "state-unknown",
  midway: "midway",
};

function plain({ channel, urgent, forMs }: Pick<Part, "channel" | "urgent" | "forMs">, to: Value): Order {
  return { channel, to, urgent, forMs, clearWithinMs: null, blocked: null };
}

function refuseHeld(channel: ChannelEntry, { lockout, open, online }: Situation): void {
  if (lockout) {
    const because = lockout.reason === null ? "" : ` (${lockout.reason})`;
    throw new RelayError("locked-out", { holder: lockout.holder, target: channel.address, because });
  }
  if ((!kindOf(channel.kind).repeatable || channel.drive !== "set") && open !== null)
    throw new RelayError("pulse-open", { target: channel.address });
  if (channel.policy.whenAbsent === "refuse" && online === false)
    throw new RelayError("device-absent", { target: channel.address, device: channel.device.name });
}

/** @throws RelayError nothing-to-start-from */
function setpointOf(channel: ChannelEntry, wish: Wish, { open, known, before }: Situation): Value {
  if (wish.asks === "to") return wish.to;
  if (wish.asks === "read") return READ;
  const kind = kindOfChannel(channel);
  const is = open ?? known;
  // While a command is open, what the channel still is, is what it was before.
  const was = wish.asks === "back" ? (open !== null ? known : before) : is;
  if (was === null || is === null) throw new RelayError("nothing-to-start-from", { target: channel.address });
  if (wish.asks === "back") return was;
  if (wish.asks === "toggle") return isOn(was) ? kind.rest : kind.full;
  return typeof was === "number" ? clampLevel(kind, was + wish.by) : was;
}

/** A group is one thing to whoever presses its button: with anything on, all of it goes off. */
function anyToggledOn(parts: readonly Part[], situationOf: (channel: ChannelId) => Situation): boolean {
  return parts.some(({ channel, wish }) => {
    const { open, known } = situationOf(channel.id);
    const is = open ?? known;
    return wish.asks === "toggle" && is !== null && isOn(is);
  });
}
