/** What all simulated devices have: contacts, switches at the wall, and a fault that somebody switches on. */
import { type KindName, kindOf, type Value } from "@bold-relay/core";

/** What the control address can do with any stand-in. */
export interface StandIn {
  /** `site/device`. */
  readonly name: string;
  readonly faults: readonly string[];
  /** `trouble`: why it cannot connect just now; null, or left out: nothing that it knows of. */
  readonly state: {
    readonly fault: string;
    readonly contacts: Record<string, Value>;
    readonly trouble?: string | null;
  };
  setFault(fault: string): Promise<void>;
  /** Somebody presses the switch at the wall. */
  flip(channel: string): Promise<Value>;
  /** Its power goes and comes back. */
  powerCut(): Promise<void>;
}

/** - silent: hears, does nothing · slow: takes its time · refusing: says no · garbling: does it, and answers nonsense
 *  - unplugged: cannot be reached */
export const OUTSIDE_FAULTS = ["none", "silent", "slow", "refusing", "garbling", "unplugged"] as const;
export type OutsideFault = (typeof OUTSIDE_FAULTS)[number];

export interface OutsideOptions {
  readonly site: string;
  readonly device: string;
  readonly channels: readonly { readonly slug: string; readonly kind: KindName; readonly index?: number }[];
  /** How long it takes while slow, ms; default 800. */
  readonly slowMs?: number;
}

export interface Contact {
  readonly slug: string;
  readonly kind: KindName;
  readonly index: number;
  value: Value;
}

/** A device that speaks no MQTT: each kind of it says how it is reached, in `plugIn` and `pullOut`. */
export abstract class OutsideDevice implements StandIn {
  readonly name: string;
  readonly faults = OUTSIDE_FAULTS;
  /** What it was told, oldest first. */
  readonly heard: string[] = [];
  protected readonly contacts: readonly Contact[];
  protected readonly slowMs: number;
  protected fault: OutsideFault = "none";

  constructor({ site, device, channels, slowMs = 800 }: OutsideOptions) {
    this.name = `${site}/${device}`;
    this.slowMs = slowMs;
    this.contacts = channels.map(({ slug, kind, index }, place) => ({
      slug,
      kind,
      index: index ?? place + 1,
      value: kindOf(kind).rest,
    }));
  }

  get state(): { fault: OutsideFault; contacts: Record<string, Value> } {
    return { fault: this.fault, contacts: Object.fromEntries(this.contacts.map(({ slug, value }) => [slug, value])) };
  }

  start(): Promise<void> {
    return this.plugIn();
  }

  stop(): Promise<void> {
    return this.pullOut();
  }

  async setFault(fault: string): Promise<void> {
    const was = this.fault;
    this.fault = OUTSIDE_FAULTS.find((one) => one === fault) ?? "none";
    if (this.fault === "unplugged" && was !== "unplugged") await this.pullOut();
    if (this.fault !== "unplugged" && was === "unplugged") await this.plugIn();
  }

  async flip(channel: string): Promise<Value> {
    const contact = this.contacts.find(({ slug }) => slug === channel);
    if (!contact) throw new Error(`${this.name} has no channel “${channel}”.`);
    const { full, rest } = kindOf(contact.kind);
    contact.value = contact.value === rest ? full : rest;
    this.flipped(contact);
    return contact.value;
  }

  async powerCut(): Promise<void> {
    await this.pullOut();
    for (const contact of this.contacts) contact.value = kindOf(contact.kind).rest;
    await this.plugIn();
  }

  protected abstract plugIn(): Promise<void>;
  protected abstract pullOut(): Promise<void>;
  /** A contact moved by hand; most of these devices tell nobody. */
  protected flipped(_contact: Contact): void {}

  protected at(index: unknown): Contact | undefined {
    return this.contacts.find((contact) => contact.index === Number(index));
  }

  protected set(contact: Contact, to: Value): void {
    // A pulse is over at once: there is nothing that the contact is now.
    if (to !== "pulse" && to !== "stop") contact.value = to;
  }

  protected async dawdle(): Promise<void> {
    if (this.fault === "slow") await new Promise((resolve) => setTimeout(resolve, this.slowMs));
  }
}
