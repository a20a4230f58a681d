/** Switches one lamp on and off without a pause, and knows how long it could not. */
import { setTimeout as pause } from "node:timers/promises";

export interface ProberOptions {
  readonly url: string;
  readonly inlet: string;
  readonly key: string;
  /** The address of its lamp. */
  readonly target: string;
}

/** Longer than any single answer takes while everything is well, ms. */
const WITHIN_MS = 2_500;
const PAUSE_MS = 40;

export class Prober {
  private readonly options: ProberOptions;
  private readonly confirmed: number[] = [];
  private stopped = false;
  private running: Promise<void> | null = null;

  constructor(options: ProberOptions) {
    this.options = options;
  }

  start(): void {
    this.running = this.run();
  }

  async stop(): Promise<void> {
    this.stopped = true;
    await this.running;
  }

  /** The longest time without a confirmed switch that ended after a moment, ms. Times are of `performance.now()`. */
  longestGapSince(from: number): number {
    const before = this.confirmed.findLast((at) => at <= from) ?? from;
    const times = [before, ...this.confirmed.filter((at) => at > from), performance.now()];
    return Math.max(...times.slice(1).map((at, index) => at - (times[index] ?? at)));
  }

  /** Resolves with the next confirmed switch that was asked for from now on. */
  async untilSwitched(withinMs: number): Promise<boolean> {
    const from = performance.now() + WITHIN_MS;
    while (performance.now() < from + withinMs) {
      if ((this.confirmed.at(-1) ?? 0) > from - WITHIN_MS) return true;
      await pause(50);
    }
    return false;
  }

  private async run(): Promise<void> {
    for (let action = "on"; !this.stopped; action = action === "on" ? "off" : "on") {
      if (await this.isConfirmed(action)) this.confirmed.push(performance.now());
      await pause(PAUSE_MS);
    }
  }

  private async isConfirmed(action: string): Promise<boolean> {
    const { url, inlet, key, target } = this.options;
    try {
      const response = await fetch(`${url}/in/${inlet}`, {
        method: "POST",
        headers: { authorization: `Bearer ${key}`, "content-type": "application/json", prefer: "wait=2" },
        body: JSON.stringify({ target, action }),
        signal: AbortSignal.timeout(WITHIN_MS),
      });
      const body = (await response.json()) as { commands?: { stage: string }[] };
      return response.ok && body.commands?.[0]?.stage === "confirmed";
    } catch {
      return false;
    }
  }
}
