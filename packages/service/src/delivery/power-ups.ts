/**
 * What channels are told after their device was powered up anew. Acts on the device's own word only: a changed
 * `boot`, or a live report that says `boot`. A broker that comes back is no power cut. Paced, so that a whole
 * sites that comes back after an outage does not switch everything in the same moment.
 */
import {
  type ChannelEntry,
  type ChannelId,
  decide,
  isOn,
  powerUpSetpoint,
  RelayError,
  type Value,
} from "@bold-relay/core";
import { saveBoot } from "../store/device-boots.ts";
import type { RuleDeps } from "./rule.ts";

/** How long a device has to say what its channels are after a power-up before its rules are looked at, ms. */
const REPORT_WITHIN_MS = 1_500;
/** Least time between two channels that are put right, ms. */
const PACE_MS = 40;
/** How soon a power-up that could not be stored is stored again, ms. */
const SAVE_AGAIN_MS = 1_000;

export class PowerUps {
  private readonly deps: RuleDeps;
  private readonly boots: Map<number, string>;
  /** By channel when its rule is looked at, ms since 1970. */
  private readonly due = new Map<ChannelId, number>();
  private lastAt = 0;
  /** Power-ups that are not on record so far, by device. */
  private readonly unsaved = new Map<number, string>();
  private saving = false;
  private saveAgainAt = 0;

  constructor(deps: RuleDeps, boots: Map<number, string>) {
    this.deps = deps;
    this.boots = boots;
  }

  /**
   * A device says that it is here.
   *
   * @returns whether it was powered up anew since it was last heard
   */
  deviceUp(channels: readonly ChannelEntry[], boot: string | null): boolean {
    const device = channels[0]?.device;
    if (!device || boot === null) return false;
    const known = this.boots.get(device.id);
    if (known === boot) return false;
    this.boots.set(device.id, boot);
    this.unsaved.set(device.id, boot);
    this.saveBoots();
    // The first that is ever heard of it tells nothing: it may have been up for years.
    if (known === undefined) return false;
    for (const channel of channels) this.schedule(channel, REPORT_WITHIN_MS);
    return true;
  }

  /** A live report says that a power-up made the channel what it is. */
  reportedBoot(channel: ChannelEntry): void {
    this.schedule(channel, 0);
  }

  private saveBoots(): void {
    if (this.saving || this.unsaved.size === 0) return;
    this.saving = true;
    const [device, boot] = [...this.unsaved][0] as [number, string];
    saveBoot(this.deps.pool, device, boot)
      .then(() => {
        if (this.unsaved.get(device) === boot) this.unsaved.delete(device);
        this.saveAgainAt = 0;
      })
      .catch((error: unknown) => {
        this.saveAgainAt = this.deps.clock.now() + SAVE_AGAIN_MS;
        this.deps.log.warn({ err: error, device }, "a power-up could not be stored, it will be tried again");
      })
      .finally(() => {
        this.saving = false;
      });
  }

  /** Puts right at most one channel a pace. */
  sweep(): void {
    if (this.unsaved.size > 0 && this.deps.clock.now() >= this.saveAgainAt) this.saveBoots();
    if (this.due.size === 0) return;
    const now = this.deps.clock.now();
    if (now < this.lastAt + PACE_MS) return;
    for (const [id, at] of this.due) {
      if (at > now) continue;
      this.due.delete(id);
      const channel = this.deps.board.snapshot.byId.get(id);
      const to = channel ? this.setpointOf(channel) : null;
      if (!channel || to === null) continue;
      this.lastAt = now;
      void this.putRight(channel, to);
      return;
    }
  }

  /** The earliest time counts: once it has reported there is nothing to wait for. */
  private schedule({ id, policy }: ChannelEntry, inMs: number): void {
    if (policy.powerUp === "keep") return;
    const at = this.deps.clock.now() + inMs;
    this.due.set(id, Math.min(at, this.due.get(id) ?? at));
  }

  private setpointOf(channel: ChannelEntry): Value | null {
    const { board, situationOf } = this.deps;
    const { open, lockout } = situationOf(channel.id);
    if (lockout) return null;
    return powerUpSetpoint(channel, {
      commanded: board.lastTakenOf(channel.id),
      observed: board.observedOf(channel.id),
      handAt: board.handAtOf(channel.id),
      commandOpen: open !== null,
    });
  }

  private async putRight(channel: ChannelEntry, to: Value): Promise<void> {
    const { board, situationOf, submitForRule, log } = this.deps;
    const forMs = isOn(to) ? channel.policy.autoOffMs : null;
    const part = { channel, wish: { asks: "to", to }, urgent: false, forMs } as const;
    try {
      await submitForRule({
        orders: decide(board.snapshot, [part], null, situationOf),
        inlet: "power-up",
        target: channel.address,
        action: channel.policy.powerUp,
        deadlineOf: null,
      });
    } catch (error) {
      log.warn({ err: error, channel: channel.address }, "a channel could not be put right after a power-up");
      // What is refused now must not happen by itself an hour later; only a journal that was busy is asked again.
      if (error instanceof RelayError && error.code !== "service-busy") return;
      this.due.set(channel.id, this.deps.clock.now() + REPORT_WITHIN_MS);
    }
  }
}
