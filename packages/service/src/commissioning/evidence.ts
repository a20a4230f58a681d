/** What a device is heard to say while it is being proven: its own messages, and topics that nobody claims. */
import {
  besideOf,
  type ChannelEntry,
  covers,
  decodePresence,
  type GarbledMessage,
  isGarbled,
  payloadText,
  readMessage,
  type Value,
} from "@bold-relay/core";
import type { Wire, WireMessage } from "../broker/wire.ts";

/** How long strays are listened for. What lies retained comes at once; the rest must speak meanwhile. */
const STRAYS_WITHIN_MS = 1_500;
const MOST_STRAYS = 5_000;

export class Evidence {
  private readonly wire: Wire;
  private readonly device: string;
  private readonly channelsNow: () => readonly ChannelEntry[];
  private readonly reports = new Map<string, { value: Value; at: number; live: boolean }>();
  private readonly garbledOnes: (GarbledMessage & { at: number })[] = [];
  private stop: (() => void) | null = null;
  private readonly comings: { readonly up: boolean; readonly at: number }[] = [];

  constructor(wire: Wire, device: string, channelsNow: () => readonly ChannelEntry[]) {
    this.wire = wire;
    this.device = device;
    this.channelsNow = channelsNow;
  }

  /** @throws Error when the broker cannot be reached */
  async listen(): Promise<void> {
    this.stop?.();
    this.stop = await this.wire.watch({
      filter: "#",
      all: false,
      onMessage: (message) => this.hear(message),
      onSkipped: () => {},
      onEnd: () => {
        this.stop = null;
      },
    });
  }

  end(): void {
    this.stop?.();
    this.stop = null;
  }

  /** How often the device said that it went or came. */
  comingsSince(since: number): readonly { readonly up: boolean; readonly at: number }[] {
    return this.comings.filter(({ at }) => at >= since);
  }

  /** What a channel last said that it is, after `since`, live. */
  reportedSince(address: string, since: number): Value | null {
    const report = this.reports.get(address);
    return report?.live && report.at >= since ? report.value : null;
  }

  /** It reported, and never live. */
  onlyRetained(address: string): boolean {
    return this.reports.get(address)?.live === false;
  }

  garbledSince(since: number): GarbledMessage[] {
    return this.garbledOnes.filter(({ at }) => at >= since);
  }

  /**
   * Topics that somebody speaks on and nobody claims. For a moment the broker cannot tell who listens to commands.
   *
   * @param meanwhile makes the device speak: what it says only once is heard only while somebody listens
   */
  async strays(meanwhile: () => Promise<unknown> = async () => {}): Promise<string[]> {
    const topics = new Set<string>();
    const stop = await this.wire
      .watch({
        filter: "#",
        all: true,
        // All that lies retained comes at once: the one that alerts must not be among those left out.
        most: 50_000,
        onMessage: ({ role, topic }) => {
          if (role === null && topics.size < MOST_STRAYS) topics.add(topic);
        },
        onSkipped: () => {},
        onEnd: () => {},
      })
      .catch(() => () => {});
    await Promise.all([meanwhile(), new Promise((resolve) => setTimeout(resolve, STRAYS_WITHIN_MS))]);
    stop();
    return [...topics];
  }

  private noteComing(payload: Uint8Array, at: number): void {
    const [channel] = this.channelsNow();
    const here = channel ? decodePresence(channel.profile.codec, payload) : null;
    if (here === null || isGarbled(here)) return;
    this.comings.push({ up: here.up, at });
    if (this.comings.length > 100) this.comings.shift();
  }

  private hear({ device, role, topic, payload, retained, garbled, at }: WireMessage): void {
    if (device !== this.device || role === "do") return;
    if (role === "here" && !retained) this.noteComing(payload, at);
    if (garbled !== null) {
      this.garbledOnes.push({ topic, payload: payloadText(payload), why: garbled, at });
      if (this.garbledOnes.length > 100) this.garbledOnes.shift();
    }
    for (const channel of this.channelsNow()) {
      const { done, is } = channel.topics;
      if (is === null || !covers(is, topic)) continue;
      const roles = { done: done !== null && covers(done, topic), is: true };
      const report = readMessage(channel.codec, roles, payload, besideOf(channel, topic, null))?.report;
      if (report) this.reports.set(channel.address, { value: report.value, at, live: !retained });
    }
  }
}
