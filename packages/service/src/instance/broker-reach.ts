/** Whether this instance reaches the broker, and whether another one would be the better leader for it. */
import { randomBytes } from "node:crypto";
import { isAlive } from "@bold-relay/core";
import { BrokerConnection } from "../broker/broker-connection.ts";
import type { BrokerAccess } from "../platform/config/broker-access.ts";
import type { InstanceRecord } from "../store/instances.ts";

export interface BrokerReachDeps {
  /** Of this instance. */
  readonly name: string;
  readonly access: BrokerAccess;
  /** Of the link. */
  readonly clientId: string;
  /** For how long the link of this instance has been down, ms; 0: it is up; null: it does not lead, and has none. */
  readonly linkDownMs: () => number | null;
}

/** A broker that restarts is back sooner, ms. */
const GIVE_WAY_AFTER_MS = 3_000;
/** Nothing is subscribed to, and nothing comes. */
const LEAST = { sessionExpiryS: 0, receiveMaximum: 1, largestBytes: 1_024 };

export class BrokerReach {
  private readonly deps: BrokerReachDeps;
  /** Another one was the better leader at the look before. */
  private wasBetterElsewhere = false;

  constructor(deps: BrokerReachDeps) {
    this.deps = deps;
  }

  /** Whoever leads knows by its link; the others look when that is down. @returns null when there is no reason to look */
  async isReached(all: readonly InstanceRecord[]): Promise<boolean | null> {
    const { name, linkDownMs } = this.deps;
    const downMs = linkDownMs();
    if (downMs !== null) return downMs === 0;
    const isMissed = all.some((one) => one.name !== name && isAlive(one) && one.brokerReached === false);
    return isMissed ? this.probe() : null;
  }

  /**
   * What a leader should do that does not reach the broker, while another instance does. A broker that is back is seen by others while
   * this link still pauses between two tries: so it tries at once, and only then gives the lead away.
   */
  advice(all: readonly InstanceRecord[]): "go on" | "try again" | "give way" {
    const { name, linkDownMs } = this.deps;
    const isCutOff = (linkDownMs() ?? 0) >= GIVE_WAY_AFTER_MS;
    const isBetter = isCutOff && all.some((one) => one.name !== name && isAlive(one) && one.brokerReached === true);
    const before = this.wasBetterElsewhere;
    this.wasBetterElsewhere = isBetter;
    if (!isBetter) return "go on";
    return before ? "give way" : "try again";
  }

  /** Signs in to the broker as the service does, with a client id of its own, and leaves. */
  private async probe(): Promise<boolean> {
    const { access, clientId } = this.deps;
    const options = { access, clientId: `${clientId}-probe-${randomBytes(4).toString("hex")}`, ...LEAST };
    try {
      const connection = await BrokerConnection.connect(options, { onMessage: () => {}, onClose: () => {} });
      await connection.close();
      return true;
    } catch {
      return false;
    }
  }
}
