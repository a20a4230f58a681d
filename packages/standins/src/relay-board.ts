/**
 * A simulated board: MQTT 3.1.1, relays, dimmers, motors and pulse contacts, a wall switch for each, presence with a
 * last will, and a memory that survives being unplugged. It misbehaves on demand.
 */
import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import { type DecodedCommand, kindOf, type Profile, readsNumbers, type Value } from "@bold-relay/core";
import { connect, type MqttClient } from "mqtt";
import {
  type BoardBinding,
  bindingsOf,
  heardOn,
  meantBy,
  othersIn,
  plainProfile,
  presenceOf,
  readsOf,
  topicSaying,
} from "./orders.ts";
import type { StandIn } from "./outside/contacts.ts";
import { type BoardDeed, FAULTS, type Fault, type RelayBoardOptions } from "./relay-board-options.ts";
import { readingAt } from "./weather.ts";

type Cause = "command" | "hand" | "timer" | "boot" | null;

const REFUSAL_CODE = 4;
const MEASURE_EVERY_MS = 5_000;
type Defaulted = "switchMs" | "slowMs" | "reports" | "speaks" | "oneAnswerTopic" | "forgets";

export class RelayBoard implements StandIn {
  readonly faults = FAULTS;
  readonly deeds: BoardDeed[] = [];
  private readonly options: RelayBoardOptions & Required<Pick<RelayBoardOptions, Defaulted>>;
  private readonly profile: Profile;
  private readonly bindings: readonly BoardBinding[];
  private readonly presence: ReturnType<typeof presenceOf>;
  private readonly contacts = new Map<string, Value>();
  private readonly timers = new Map<string, NodeJS.Timeout>();
  private weather: NodeJS.Timeout | null = null;
  private client: MqttClient | null = null;
  private fault: Fault = "none";
  /** The power-up that it has told of: a mere reconnecting is none. */
  private announced: string | null = null;
  private boot = "";
  private trouble: string | null = null;

  constructor(options: RelayBoardOptions) {
    const defaults = { switchMs: 0, slowMs: 1_500, reports: true, oneAnswerTopic: false, forgets: false };
    this.options = { ...defaults, speaks: "json", ...options };
    const { site, device, channels, contacts, profile, speaks = "json", oneAnswerTopic = false } = this.options;
    this.profile = profile ?? plainProfile(speaks, oneAnswerTopic);
    const all = channels.map((channel) => (typeof channel === "string" ? { slug: channel } : channel));
    this.bindings = bindingsOf(site, device, this.profile, all);
    this.presence = presenceOf(site, device, this.profile);
    for (const { slug, rest } of this.bindings) this.contacts.set(slug, contacts?.[slug] ?? rest);
  }

  get name(): string {
    return `${this.options.site}/${this.options.device}`;
  }

  get state(): { fault: Fault; contacts: Record<string, Value>; trouble: string | null } {
    return { fault: this.fault, contacts: Object.fromEntries(this.contacts), trouble: this.trouble };
  }

  /** Plugs it in; resolves once it has said that it is here. */
  async start(): Promise<void> {
    this.boot = randomUUID().slice(0, 8);
    this.readSensors();
    await this.connect();
    this.weather ??= setInterval(() => this.measure(), MEASURE_EVERY_MS);
  }

  /** A clean stop: says that it is leaving. */
  async stop(): Promise<void> {
    for (const timer of this.timers.values()) clearTimeout(timer);
    if (this.weather) clearInterval(this.weather);
    const client = this.client;
    this.client = null;
    if (!client) return;
    if (client.connected && this.presence) {
      const gone = this.presence.say(false, this.boot);
      await client.publishAsync(this.presence.topic, gone, { qos: 1, retain: true });
    }
    await client.endAsync();
  }

  async setFault(word: string): Promise<void> {
    const fault = FAULTS.find((one) => one === word) ?? "none";
    const wasUnplugged = this.fault === "unplugged";
    this.fault = fault;
    if (fault === "unplugged" && !wasUnplugged) await this.cutLine();
    if (fault !== "unplugged" && wasUnplugged) await this.powerUp();
  }

  /** Its power goes and comes back. */
  async powerCut(): Promise<void> {
    await this.cutLine();
    await this.powerUp();
  }

  /** Its network goes and comes back; it stays powered. */
  async flapLink(): Promise<void> {
    await this.cutLine();
    await this.connect();
  }

  /** Somebody presses the switch at the wall. */
  async flip(channel: string): Promise<Value> {
    const now = this.contacts.get(channel);
    if (now === undefined) throw new Error(`${this.name} has no channel “${channel}”.`);
    const { full, rest } = kindOf(this.bindings.find((binding) => binding.slug === channel)?.kind ?? "relay");
    const to = typeof now === "number" && typeof full !== "number" ? (now === 0 ? 100 : 0) : now === rest ? full : rest;
    this.move(channel, to);
    this.note({ channel, deed: "flipped", to });
    await this.report(channel, to, "hand", null);
    return to;
  }

  private async connect(): Promise<void> {
    const { brokerUrl, brokerCa, username, password, keepaliveS = 10 } = this.options;
    const client = connect(brokerUrl, {
      ...(brokerCa === undefined ? {} : { ca: readFileSync(brokerCa) }),
      protocolVersion: 4,
      clientId: `${this.options.site}-${this.options.device}`,
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password }),
      clean: true,
      keepalive: keepaliveS,
      reconnectPeriod: 500,
      ...(this.presence
        ? { will: { topic: this.presence.topic, payload: this.presence.say(false, this.boot), qos: 1, retain: true } }
        : {}),
    });
    this.client = client;
    client.on("error", (error) => {
      this.trouble = error.message;
      this.complain(error.message);
    });
    client.on("message", (topic, payload) => this.receive(topic, payload));
    await new Promise<void>((resolve) => {
      client.on("connect", () => {
        this.trouble = null;
        (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
        // If the line breaks meanwhile, it announces itself at the next connect.
        this.announce(client).then(resolve, (error: Error) => this.complain(error.message));
      });
    });
  }

  /** Cuts the line without a DISCONNECT, so that the broker sends the last will. */
  private async cutLine(): Promise<void> {
    const client = this.client;
    this.client = null;
    client?.removeAllListeners("message");
    client?.stream.destroy();
    await client?.endAsync(true);
  }

  private async powerUp(): Promise<void> {
    for (const timer of this.timers.values()) clearTimeout(timer);
    this.timers.clear();
    for (const [channel, was] of this.contacts) {
      const to = this.options.forgets ? (typeof was === "number" ? 0 : "off") : was;
      this.move(channel, to);
      this.note({ channel, deed: "powered-up", to });
    }
    await this.start();
  }

  private async announce(client: MqttClient): Promise<void> {
    const reads = [...new Set(this.bindings.flatMap(readsOf))];
    if (reads.length > 0) await client.subscribeAsync(reads, { qos: 1 });
    if (this.presence) {
      const here = this.presence.say(true, this.boot);
      await client.publishAsync(this.presence.topic, here, { qos: 1, retain: true });
    }
    const by = this.announced === this.boot ? null : "boot";
    this.announced = this.boot;
    for (const [channel, to] of this.contacts) await this.report(channel, to, by, null);
  }

  private receive(topic: string, payload: Buffer): void {
    for (const binding of meantBy(this.bindings, topic, payload, this.contacts)) {
      const { slug: channel, firmware, topics } = binding;
      const order = heardOn(binding, topic, payload);
      if (!order && topics.ask === topic && firmware.isAsked(payload)) this.tellNow(channel);
      if (!order) continue;
      this.note({ channel, deed: "heard", ...named(order) });
      if (this.fault === "silent") continue;
      const delay = this.options.switchMs + this.extraDelay();
      if (delay === 0) this.obey(channel, order);
      else setTimeout(() => this.obey(channel, order), delay);
    }
  }

  /** It is asked what a channel is: it says so, whether or not that is news. */
  private tellNow(channel: string): void {
    const is = this.contacts.get(channel);
    if (this.fault === "silent" || is === undefined) return;
    setTimeout(() => void this.report(channel, this.contacts.get(channel) ?? is, null, null), this.extraDelay());
  }

  private extraDelay(): number {
    if (this.fault === "slow") return this.options.slowMs;
    return this.fault === "reordering" ? Math.random() * this.options.slowMs : 0;
  }

  private obey(channel: string, order: DecodedCommand): void {
    const { id, to } = order;
    if (this.fault === "refusing") {
      this.note({ channel, deed: "refused", ...named(order) });
      this.answer(channel, id, false, REFUSAL_CODE);
      return;
    }
    if (this.fault === "lying") return this.answer(channel, id, true, 1);
    for (let time = 0; time < (this.fault === "doubling" ? 2 : 1); time += 1) {
      const same = this.contacts.get(channel) === to;
      if (to !== "pulse" && to !== "stop") this.move(channel, to);
      this.note({ channel, deed: "switched", ...named(order) });
      this.answer(channel, id, true, 1);
      // A pulse is over at once: there is nothing that the contact is now.
      if (to === "pulse" || (same && this.options.onlyChanges)) continue;
      void this.report(channel, this.contacts.get(channel) ?? to, "command", id);
    }
    this.timeOff(channel, order);
  }

  /** A board that understands times ends what was asked for a while by itself. */
  private timeOff(channel: string, { to, forMs }: DecodedCommand): void {
    clearTimeout(this.timers.get(channel));
    if (forMs === null) return;
    const rest = typeof to === "number" ? 0 : "off";
    const timer = setTimeout(() => {
      this.move(channel, rest);
      this.note({ channel, deed: "timed-off", to: rest });
      void this.report(channel, rest, "timer", null);
    }, forMs);
    this.timers.set(channel, timer);
  }

  /** Its sensors follow the day. */
  private measure(): void {
    if (this.fault !== "none") return;
    for (const slug of this.readSensors()) void this.report(slug, this.contacts.get(slug) ?? 0, null, null);
  }

  /** @returns those that there are */
  private readSensors(): string[] {
    return this.bindings.flatMap(({ slug, kind }, place) => {
      if (!readsNumbers(kindOf(kind))) return [];
      this.contacts.set(slug, readingAt(Date.now(), place));
      return slug;
    });
  }

  private move(channel: string, to: Value): void {
    this.contacts.set(channel, to);
    this.options.onMoved?.();
  }

  private async report(channel: string, to: Value, by: Cause, id: string | null): Promise<void> {
    const binding = this.bindings.find(({ slug }) => slug === channel);
    const topic = binding?.topics.is ?? null;
    if (!this.options.reports || !this.client || !binding || topic === null) return;
    await this.client
      .publishAsync(
        topicSaying(topic, binding, id, to),
        Buffer.from(binding.firmware.report(to, by, id, othersIn(this.bindings, binding, this.contacts))),
        {
          qos: 1,
          retain: true,
        },
      )
      .catch((error: Error) => this.complain(`a report was lost: ${error.message}`));
  }

  private answer(channel: string, id: string | null, ok: boolean, code: number): void {
    const binding = this.bindings.find(({ slug }) => slug === channel);
    const payload = binding?.firmware.answer(id, ok, code) ?? null;
    if (!binding || binding.topics.done === null || payload === null) return;
    this.client?.publish(topicSaying(binding.topics.done, binding, id), Buffer.from(payload), { qos: 1 });
  }

  private complain(what: string): void {
    if (!this.options.quiet) process.stderr.write(`${this.name}: ${what}\n`);
  }

  private note(deed: Omit<BoardDeed, "at">): void {
    const noted = { at: Date.now(), ...deed };
    this.deeds.push(noted);
    this.options.onDeed?.(noted);
    if (this.deeds.length > 10_000) this.deeds.splice(0, 5_000);
  }
}

function named({ id, to }: DecodedCommand): Pick<BoardDeed, "id" | "to"> {
  return id === null ? { to } : { id, to };
}
