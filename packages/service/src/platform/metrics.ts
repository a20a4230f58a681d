/** DeliveryStatistics for a monitoring system, in the Prometheus text format. docs/metrics.md lists them; a test compares both. */
import type { Command, Outcome } from "@bold-relay/core";
import { Counter, collectDefaultMetrics, Gauge, Histogram, Registry } from "prom-client";

/** What is looked at when somebody reads the statistics. */
export interface MetricSources {
  readonly linkUp: () => boolean;
  readonly linkRoundTripMs: () => number | null;
  readonly databaseUp: () => boolean;
  readonly queued: () => Readonly<Record<string, number>>;
  readonly openRequests: () => number;
  readonly liveConnections: () => number;
  readonly deadlines: () => number;
  readonly counts: () => { readonly absent: number; readonly drifting: number; readonly unknown: number };
}

/** s; from one round trip on loopback to a blind that travels a minute. */
const SECONDS = [0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60];

export class Metrics {
  readonly registry = new Registry();
  private readonly requests = this.counter("requests_total", "requests by what became of them", ["inlet", "outcome"]);
  private readonly ended = this.counter("commands_ended_total", "commands by their end and its reason", [
    "end",
    "reason",
  ]);
  private readonly attempts = this.counter("attempts_total", "writes to command topics", []);
  private readonly ignored = this.counter("messages_ignored_total", "messages from devices that meant nothing", []);
  private readonly reached = new Histogram({
    name: "bold_relay_stage_seconds",
    help: "time from the asking until a stage was proven",
    labelNames: ["stage"],
    buckets: SECONDS,
    registers: [this.registry],
  });
  private readonly commits = new Histogram({
    name: "bold_relay_commit_seconds",
    help: "time of one commit group, retries included",
    labelNames: ["writer"],
    buckets: [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.5, 1, 5, 30],
    registers: [this.registry],
  });

  /** Called once the sources exist. */
  watch(sources: MetricSources): void {
    collectDefaultMetrics({ register: this.registry });
    const flag = (value: boolean) => Number(value);
    this.gauge("link_up", "whether writes reach the broker", () => flag(sources.linkUp()));
    this.gauge(
      "link_round_trip_seconds",
      "last round trip through the broker",
      () => (sources.linkRoundTripMs() ?? 0) / 1000,
    );
    this.gauge("database_up", "whether the database can be written", () => flag(sources.databaseUp()));
    this.gauge("open_requests", "requests without an outcome", sources.openRequests);
    this.gauge("live_connections", "consoles and terminals that are told live", sources.liveConnections);
    this.gauge("deadlines", "channels that must go off by themselves", sources.deadlines);
    this.gauge("devices_absent", "devices that are offline", () => sources.counts().absent);
    this.gauge("channels_drifting", "channels in drift", () => sources.counts().drifting);
    this.gauge("channels_unknown", "channels that never said what they are", () => sources.counts().unknown);
    const queue = new Gauge({
      name: "bold_relay_journal_queue",
      help: "rows that wait for their commit",
      labelNames: ["writer"],
      registers: [this.registry],
      collect() {
        for (const [writer, rows] of Object.entries(sources.queued())) this.set({ writer }, rows);
      },
    });
    queue.reset();
  }

  requestEnded(inlet: string, outcome: Outcome): void {
    this.requests.inc({ inlet, outcome });
  }

  commandEnded({ end, reason, attempts, askedAt, publishedAt, acknowledgedAt, confirmedAt }: Command): void {
    this.ended.inc({ end: end ?? "open", reason: reason ?? "" });
    this.attempts.inc(attempts);
    const observe = (stage: string, at: number | null) => {
      if (at !== null) this.reached.observe({ stage }, Math.max(0, at - askedAt) / 1000);
    };
    observe("published", publishedAt);
    observe("acknowledged", acknowledgedAt);
    observe("confirmed", confirmedAt);
  }

  messageIgnored(): void {
    this.ignored.inc();
  }

  committed(writer: string, ms: number): void {
    this.commits.observe({ writer }, ms / 1000);
  }

  private counter<Label extends string>(name: string, help: string, labelNames: Label[]): Counter<Label> {
    return new Counter({ name: `bold_relay_${name}`, help, labelNames, registers: [this.registry] });
  }

  private gauge(name: string, help: string, value: () => number): void {
    const collect = function (this: Gauge): void {
      this.set(value());
    };
    new Gauge({ name: `bold_relay_${name}`, help, registers: [this.registry], collect });
  }
}
