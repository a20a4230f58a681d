/**
 * What odd boards are made of: firmware written from the words of their makers, with no codec of ours in it, and faults that a
 * board of any make can have.
 */
import type { DeviceDescription, Profile, TopicPatterns } from "@bold-relay/core";
import type { MqttClient } from "mqtt";

export type Fault = "none" | "silent" | "wrong-value" | "wrong-channel" | "wrong-id" | "refusal" | "doubled" | "late";

/** A message of the board. */
export interface Said {
  readonly topic: string;
  readonly payload: string | Uint8Array;
  readonly retain?: boolean;
}

/** A command as the firmware understands it: which output, and what it shall be, in the board's own words. */
export interface Heard {
  readonly output: string;
  readonly to: string;
  readonly id?: string;
}

export interface OddBoard {
  /** As an engineer tells it. */
  readonly about: string;
  readonly profile: Omit<Profile, "slug" | "name">;
  readonly device: Omit<DeviceDescription, "slug" | "name" | "profile">;
  /** What is asked first and then, of which channel; and what must be on the wire for it, to the byte. */
  readonly channel: string;
  readonly asks: readonly {
    readonly action: string;
    readonly value?: number | string;
    readonly wire: string | RegExp;
  }[];
  readonly firmware: (device: string) => Firmware;
}

export interface Firmware {
  readonly listens: readonly string[];
  readonly hear: (topic: string, text: string, bytes: Uint8Array) => Heard | null;
  /** null: this board does not acknowledge. */
  readonly ack: ((heard: Heard, ok: boolean) => Said) | null;
  /** What it says of its outputs once it has obeyed; null: it reports nothing. */
  readonly report: ((heard: Heard) => readonly Said[]) | null;
  /** Another output, and another value, for a board that gets it wrong; where only an impulse is told there is no other. */
  readonly otherOutput?: string;
  readonly otherValue?: (to: string) => string;
  /** Said when it connects: what lies there retained, and what its inputs are. */
  readonly hello?: readonly Said[];
  readonly here?: (up: boolean, boot: string) => Said;
  /** Whether its presence tells of power-ups. */
  readonly boots?: boolean;
}

/** Runs a firmware on a plain connection. */
export class RunningBoard {
  fault: Fault = "none";
  /** What came on its command topics, as text; bytes in hexadecimal. */
  readonly heard: string[] = [];
  readonly firmware: Firmware;
  private readonly mqtt: MqttClient;
  private held: Said[] = [];

  constructor(firmware: Firmware, mqtt: MqttClient) {
    this.firmware = firmware;
    this.mqtt = mqtt;
  }

  async start(): Promise<void> {
    const { listens, hello = [], here } = this.firmware;
    this.mqtt.on("message", (topic, payload) => this.obey(topic, payload));
    if (listens.length > 0) await this.mqtt.subscribeAsync([...listens], { qos: 1 });
    if (here) await this.say({ ...here(true, "boot-0"), retain: true });
    for (const one of hello) await this.say(one);
  }

  async say({ topic, payload, retain = false }: Said): Promise<void> {
    await this.mqtt.publishAsync(topic, Buffer.from(payload as string), { qos: 1, retain });
  }

  /** Says at last what a late board held back. */
  async release(): Promise<void> {
    for (const one of this.held.splice(0)) await this.say(one);
  }

  private obey(topic: string, payload: Buffer): void {
    const heard = this.firmware.hear(topic, payload.toString(), payload);
    if (heard === null) return;
    const isText = /^[\x20-\x7e\u00a0-\uffff]*$/.test(payload.toString()) && payload.length > 0;
    this.heard.push(isText ? payload.toString() : payload.toString("hex"));
    const said = this.saidTo(heard);
    if (this.fault === "late") this.held.push(...said);
    else for (const one of said) void this.say(one);
  }

  private saidTo(heard: Heard): Said[] {
    const { ack, report, otherOutput, otherValue } = this.firmware;
    const asked = this.fault === "wrong-id" ? { ...heard, id: "00000000-0000-7000-8000-000000000abc" } : heard;
    const obeyed =
      this.fault === "wrong-value"
        ? { ...asked, to: otherValue?.(asked.to) ?? asked.to }
        : this.fault === "wrong-channel"
          ? { ...asked, output: otherOutput ?? asked.output }
          : asked;
    if (this.fault === "silent") return [];
    if (this.fault === "refusal") return ack ? [ack(heard, false)] : [];
    const said = [...(ack ? [ack(obeyed, true)] : []), ...(report ? report(obeyed) : [])];
    return this.fault === "doubled" ? said.flatMap((one) => [one, one]) : said;
  }
}

/** What a profile's topics are when nothing else is said. */
export const NO_TOPICS: TopicPatterns = { do: null, done: null, is: null, here: null };
