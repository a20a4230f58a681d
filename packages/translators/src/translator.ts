/**
 * One device that speaks no MQTT, as the service sees it: an MQTT client like any other device, with credentials, topics
 * and a last will of its own. What it hears it hands to the far side; what comes of it, it answers.
 *
 * It keeps its own time: what was asked for a while goes off again although the broker, or the service, is gone.
 */
import { randomUUID } from "node:crypto";
import { readFileSync } from "node:fs";
import {
  bindFirmware,
  type ChannelBinding,
  type DecodedCommand,
  encodePresence,
  type Firmware,
} from "@bold-relay/core";
import { connect, type MqttClient } from "mqtt";
import { bindingsOf } from "./bindings.ts";
import { ChannelReports, type Report } from "./channel-reports.ts";
import { CODES, type DeviceDriver, type FarAnswer, type FarOrder } from "./device-driver.ts";
import type { BrokerAccess, TranslatedDevice } from "./plan.ts";

export type Say = (line: string) => void;

/** How many commands are remembered, to tell a repeated one from a new one. */
const REMEMBERED = 256;
/** How many may be under way at any time. */
const MOST_OPEN = 32;
/** How long between two tries to switch off what has run for long enough. */
const OFF_AGAIN_MS = 1_000;

interface ChannelOnBroker {
  readonly binding: ChannelBinding;
  readonly firmware: Firmware;
  readonly reports: ChannelReports;
}

/** What TLS needs, read from the files that the plan names. */
function pemOf({ ca, cert, key }: BrokerAccess): Record<string, Buffer> {
  const files = Object.entries({ ca, cert, key }).filter(([, file]) => file !== undefined);
  return Object.fromEntries(files.map(([name, file]) => [name, readFileSync(file as string)]));
}

export class Translator {
  private readonly device: TranslatedDevice;
  private readonly broker: BrokerAccess;
  private readonly driver: DeviceDriver;
  private readonly say: Say;
  private readonly boot = randomUUID().slice(0, 8);
  private readonly channels: readonly ChannelOnBroker[];
  private readonly answers = new Map<string, FarAnswer | null>();
  private readonly offTimers = new Map<string, NodeJS.Timeout>();
  private client: MqttClient | null = null;
  private isReachable = false;
  private open = 0;
  private stopped = false;

  constructor(device: TranslatedDevice, broker: BrokerAccess, driver: DeviceDriver, say: Say) {
    this.device = device;
    this.broker = broker;
    this.driver = driver;
    this.say = say;
    this.channels = bindingsOf(device).map((binding) => ({
      binding,
      firmware: bindFirmware("json", binding),
      reports: new ChannelReports(),
    }));
  }

  get name(): string {
    return `${this.device.site}/${this.device.device}`;
  }

  /** Resolves once it is on the broker; the far side may take longer, or never answer. */
  async start(): Promise<void> {
    const online = this.connect();
    await this.driver.start({
      reachable: (up) => this.setReachable(up),
      observed: ({ slug }, value, by) => {
        const channel = this.channels.find(({ binding }) => binding.slug === slug);
        if (channel) this.report(channel, channel.reports.see({ value, by }));
      },
    });
    await online;
  }

  /** Switches off what runs for a while only, says that it leaves, and closes both sides. */
  async stop(): Promise<void> {
    const running = this.channels.filter(({ binding }) => this.offTimers.has(binding.slug));
    for (const timer of this.offTimers.values()) clearTimeout(timer);
    await Promise.all(
      running.map(({ binding }) => this.driver.tell({ id: randomUUID(), binding, to: binding.kind.rest, forMs: null })),
    );
    this.stopped = true;
    const client = this.client;
    this.client = null;
    if (client?.connected) {
      await client.publishAsync(this.topic("here"), presence(false, this.boot), { qos: 1, retain: true });
    }
    await client?.endAsync(!client.connected);
    await this.driver.stop();
  }

  private async connect(): Promise<void> {
    const client = connect(this.broker.url, {
      protocolVersion: 5,
      clientId: `${this.device.site}-${this.device.device}`,
      ...(this.device.username === undefined ? {} : { username: this.device.username }),
      ...(this.device.password === undefined ? {} : { password: this.device.password }),
      ...pemOf(this.broker),
      clean: true,
      reconnectPeriod: 500,
      // What could not be said while away is said anew on connecting: nothing old is kept for later.
      queueQoSZero: false,
      will: { topic: this.topic("here"), payload: presence(false, this.boot), qos: 1, retain: true },
    });
    this.client = client;
    client.on("error", (error) => this.say(`${this.name}: the broker: ${error.message}`));
    client.on("message", (topic, payload, { retain }) => {
      // A command that was kept for whoever connects next is nobody's wish of now.
      if (!retain) this.receive(topic, payload);
    });
    await new Promise<void>((resolve) => {
      client.on("connect", () => {
        (client.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
        this.announce(client).then(resolve, (error: Error) => this.say(`${this.name}: ${error.message}`));
      });
    });
  }

  private async announce(client: MqttClient): Promise<void> {
    await client.subscribeAsync(
      this.channels.map(({ binding }) => this.topic(`${binding.slug}/do`)),
      { qos: 1 },
    );
    await client.publishAsync(this.topic("here"), presence(this.isReachable, this.boot), { qos: 1, retain: true });
    for (const channel of this.channels) this.report(channel, channel.reports.now);
  }

  private setReachable(up: boolean): void {
    if (this.isReachable === up) return;
    this.isReachable = up;
    this.say(`${this.name}: ${up ? "reached" : "cannot be reached"}`);
    this.publish("here", presence(up, this.boot), true);
  }

  private receive(topic: string, payload: Uint8Array): void {
    const found = this.channels.find(({ binding }) => this.topic(`${binding.slug}/do`) === topic);
    const order = found?.firmware.hear(payload);
    if (!found || !order) return this.say(`${this.name}: a payload on ${topic} is no command`);
    this.obey(found, order).catch((error: Error) => this.say(`${this.name}: ${error.message}`));
  }

  private async obey(channel: ChannelOnBroker, { id, to, forMs }: DecodedCommand): Promise<void> {
    const { binding, reports } = channel;
    const command = id ?? randomUUID();
    if (this.answers.has(command)) return this.answerAgain(binding, command);
    this.remember(command, null);
    reports.begin();
    const answer = await this.passOn({ id: command, binding, to, forMs });
    // Nobody knows what became of it, so a repeated one may try once more; of a pulse there is no second.
    if (answer.ok === null && binding.kind.repeatable) this.answers.delete(command);
    else this.remember(command, answer);
    this.keepTime(channel, answer, forMs);
    this.answer(binding, command, answer);
    this.report(channel, reports.answered({ to, id: command }, answer));
  }

  private async passOn(order: FarOrder): Promise<FarAnswer> {
    if (this.open >= MOST_OPEN)
      return { ok: false, code: CODES.busy, why: `${MOST_OPEN} commands wait for it already` };
    this.open += 1;
    try {
      return await this.driver.tell(order);
    } finally {
      this.open -= 1;
    }
  }

  private answerAgain(binding: ChannelBinding, command: string): void {
    const answer = this.answers.get(command);
    // null: it is under way, and will be answered.
    if (answer) this.answer(binding, command, answer);
  }

  private remember(command: string, answer: FarAnswer | null): void {
    this.answers.set(command, answer);
    const [oldest] = this.answers.keys();
    if (this.answers.size > REMEMBERED && oldest !== undefined) this.answers.delete(oldest);
  }

  /**
   * Ends what was asked for a while. Only an order that was taken may put an end to the time that runs: one that failed has
   * changed nothing, and one that nobody knows of may run as well.
   */
  private keepTime(channel: ChannelOnBroker, { ok }: FarAnswer, forMs: number | null): void {
    if (ok === false || (ok === null && forMs === null)) return;
    const { slug } = channel.binding;
    clearTimeout(this.offTimers.get(slug));
    this.offTimers.delete(slug);
    if (forMs !== null) this.switchOffIn(channel, forMs);
  }

  /** Tries until the device has taken it, or something newer has. */
  private switchOffIn(channel: ChannelOnBroker, ms: number): void {
    const { binding, reports } = channel;
    const off = { to: binding.kind.rest, id: null };
    const timer = setTimeout(() => {
      reports.begin();
      void this.driver.tell({ id: randomUUID(), binding, to: off.to, forMs: null }).then((answer) => {
        const seen = reports.answered(off, answer);
        if (this.stopped) return;
        this.report(channel, seen);
        if (this.offTimers.get(binding.slug) !== timer) return;
        if (answer.ok !== true) this.switchOffIn(channel, OFF_AGAIN_MS);
        else this.offTimers.delete(binding.slug);
      });
    }, ms);
    this.offTimers.set(binding.slug, timer);
  }

  private answer({ slug }: ChannelBinding, id: string, answer: FarAnswer): void {
    const why = answer.ok === true ? {} : { why: answer.why.slice(0, 120) };
    const code = answer.ok === false ? { code: answer.code } : {};
    this.publish(`${slug}/done`, JSON.stringify({ id, ok: answer.ok, ...code, ...why }), false);
  }

  private report({ binding, firmware }: ChannelOnBroker, reports: readonly Report[]): void {
    for (const { value, by, id } of reports) {
      this.publish(`${binding.slug}/is`, Buffer.from(firmware.report(value, by, id)), true);
    }
  }

  private publish(what: string, payload: string | Buffer, retain: boolean): void {
    if (!this.client?.connected) return;
    this.client.publish(this.topic(what), payload, { qos: 1, retain }, (error) => {
      if (error && !this.stopped) this.say(`${this.name}: ${what} was not taken by the broker: ${error.message}`);
    });
  }

  private topic(what: string): string {
    return `${this.name}/${what}`;
  }
}

function presence(up: boolean, boot: string): Buffer {
  return Buffer.from(encodePresence("json", { up, boot }));
}
