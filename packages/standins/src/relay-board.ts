/**
 * A simulated relay board: MQTT 3.1.1, relays and lights, a wall switch for each, presence with a last
 * will, and a memory that survives being unplugged. It misbehaves on demand.
 */
import { randomUUID } from "node:crypto";
import type { Value } from "@bold-relay/core";
import { connect, type MqttClient } from "mqtt";

/** - silent: hears, does nothing · slow: takes its time · refusing: says no · unplugged: off the broker, last will sent */
export const FAULTS = ["none", "silent", "slow", "refusing", "unplugged"] as const;
export type Fault = (typeof FAULTS)[number];

export interface RelayBoardOptions {
  readonly brokerUrl: string;
  readonly username?: string;
  readonly password?: string;
  readonly site: string;
  readonly device: string;
  readonly channels: readonly string[];
  /** How long a switching takes, ms; default 0. */
  readonly switchMs?: number;
  /** How long it takes while slow, ms; default 1500. */
  readonly slowMs?: number;
  /** What its contacts were when it was last switched off; default: all off. */
  readonly contacts?: Readonly<Record<string, Value>>;
  /** Told whenever a contact moved, for whoever keeps its memory. */
  readonly onMoved?: () => void;
  /** It reports only when a contact moved. Default false. */
  readonly onlyChanges?: boolean;
  /** Whether it reports what its channels are; one that does not can only acknowledge. Default true. */
  readonly reports?: boolean;
}

/** One line of the board's own log: what it heard and did, whatever it told. */
export interface BoardDeed {
  readonly at: number;
  readonly channel: string;
  readonly deed: "heard" | "switched" | "refused" | "flipped";
  readonly id?: string;
  readonly to?: Value;
}

const REFUSAL_CODE = 4;

export class RelayBoard {
  readonly deeds: BoardDeed[] = [];
  private readonly options: RelayBoardOptions & Required<Pick<RelayBoardOptions, "switchMs" | "slowMs" | "reports">>;
  private readonly contacts = new Map<string, Value>();
  private client: MqttClient | null = null;
  private fault: Fault = "none";
  /** The power-up that it has told of: a mere reconnecting is none. */
  private announced: string | null = null;

  constructor(options: RelayBoardOptions) {
    this.options = { switchMs: 0, slowMs: 1_500, reports: true, ...options };
    for (const channel of options.channels) this.contacts.set(channel, options.contacts?.[channel] ?? "off");
  }

  get name(): string {
    return `${this.options.site}/${this.options.device}`;
  }

  get state(): { fault: Fault; contacts: Record<string, Value> } {
    return { fault: this.fault, contacts: Object.fromEntries(this.contacts) };
  }

  /** Plugs it in; resolves once it has said that it is here. */
  async start(): Promise<void> {
    const { brokerUrl, username, password } = this.options;
    const client = connect(brokerUrl, {
      protocolVersion: 4,
      clientId: `${this.options.site}-${this.options.device}`,
      ...(username === undefined ? {} : { username }),
      ...(password === undefined ? {} : { password }),
      clean: true,
      reconnectPeriod: 500,
      will: { topic: `${this.name}/here`, payload: '{"up":false}', qos: 1, retain: true },
    });
    this.client = client;
    client.on("error", (error) => process.stderr.write(`${this.name}: ${error.message}\n`));
    client.on("message", (topic, payload) => this.receive(topic, payload));
    const boot = randomUUID().slice(0, 8);
    await new Promise<void>((resolve, reject) => {
      client.on("connect", () => {
        (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
        this.announce(client, boot).then(resolve, reject);
      });
    });
  }

  /** A clean stop: says that it is leaving. */
  async stop(): Promise<void> {
    const client = this.client;
    this.client = null;
    if (!client) return;
    if (client.connected) await client.publishAsync(`${this.name}/here`, '{"up":false}', { qos: 1, retain: true });
    await client.endAsync();
  }

  async setFault(fault: Fault): Promise<void> {
    const wasUnplugged = this.fault === "unplugged";
    this.fault = fault;
    if (fault === "unplugged" && !wasUnplugged) {
      // Cut the line without a DISCONNECT, so that the broker sends the last will.
      const client = this.client;
      this.client = null;
      client?.removeAllListeners("message");
      client?.stream.destroy();
      await client?.endAsync(true);
    }
    if (fault !== "unplugged" && wasUnplugged) await this.start();
  }

  /** Somebody presses the switch at the wall. */
  async flip(channel: string): Promise<Value> {
    const now = this.contacts.get(channel);
    if (now === undefined) throw new Error(`${this.name} has no channel “${channel}”.`);
    const to = now === "on" ? "off" : "on";
    this.move(channel, to);
    this.note({ channel, deed: "flipped", to });
    await this.report(channel, { to, by: "hand" });
    return to;
  }

  private async announce(client: MqttClient, boot: string): Promise<void> {
    await client.subscribeAsync(`${this.name}/+/do`, { qos: 1 });
    await client.publishAsync(`${this.name}/here`, JSON.stringify({ up: true, boot }), { qos: 1, retain: true });
    const by = this.announced === boot ? {} : { by: "boot" };
    this.announced = boot;
    for (const [channel, to] of this.contacts) await this.report(channel, { to, ...by });
  }

  private receive(topic: string, payload: Buffer): void {
    const channel = topic.split("/").at(-2) ?? "";
    const order = readOrder(payload);
    if (!order || !this.contacts.has(channel)) return;
    this.note({ channel, deed: "heard", ...order });
    if (this.fault === "silent") return;
    const delay = this.options.switchMs + (this.fault === "slow" ? this.options.slowMs : 0);
    if (delay === 0) this.obey(channel, order);
    else setTimeout(() => this.obey(channel, order), delay);
  }

  private obey(channel: string, { id, to }: { id: string; to: Value }): void {
    if (this.fault === "refusing") {
      this.note({ channel, deed: "refused", id, to });
      this.publish(`${this.name}/${channel}/done`, { id, ok: false, code: REFUSAL_CODE });
      return;
    }
    const same = this.contacts.get(channel) === to;
    this.move(channel, to);
    this.note({ channel, deed: "switched", id, to });
    this.publish(`${this.name}/${channel}/done`, { id, ok: true, code: 1 });
    if (!(same && this.options.onlyChanges)) void this.report(channel, { to, by: "command", id });
  }

  private move(channel: string, to: Value): void {
    this.contacts.set(channel, to);
    this.options.onMoved?.();
  }

  private async report(channel: string, body: object): Promise<void> {
    if (!this.options.reports || !this.client) return;
    await this.client
      .publishAsync(`${this.name}/${channel}/is`, JSON.stringify(body), { qos: 1, retain: true })
      .catch((error: Error) => {
        process.stderr.write(`${this.name}: a report was lost: ${error.message}\n`);
      });
  }

  private publish(topic: string, body: object): void {
    this.client?.publish(topic, JSON.stringify(body), { qos: 1 });
  }

  private note(deed: Omit<BoardDeed, "at">): void {
    this.deeds.push({ at: Date.now(), ...deed });
    if (this.deeds.length > 10_000) this.deeds.splice(0, 5_000);
  }
}

function readOrder(payload: Buffer): { id: string; to: Value } | null {
  try {
    const { id, to } = JSON.parse(payload.toString("utf8")) as { id?: unknown; to?: unknown };
    return typeof id === "string" && (to === "on" || to === "off") ? { id, to } : null;
  } catch {
    return null;
  }
}
