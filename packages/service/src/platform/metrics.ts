/** Metrics for a monitoring system, in the Prometheus text format. docs/reference/metrics.md lists them. */
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
  readonly counts: () => {
    readonly presence: Readonly<Record<string, number>>;
    readonly drifting: number;
    readonly unknown: number;
  };
}

/** s; from one round trip on loopback to a blind that travels a minute. */
const SECONDS = [0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60];

export class Metrics {
  readonly registry = new Registry();
  private readonly requests = this.counter(
    "requests_total",
    "requests by outcome; a rising share of not-delivered or not-understood at one inlet points to its caller or its devices",
    ["inlet", "outcome"],
  );
  private readonly ended = this.counter("commands_ended_total", "commands by end and reason; alarm on unanswered", [
    "end",
    "reason",
  ]);
  private readonly attempts = this.counter(
    "attempts_total",
    "writes to command topics; more than one a command means that devices answer late",
    [],
  );
  private readonly ignored = this.counter(
    "messages_ignored_total",
    "messages from devices that could not be read; the log names topic and reason",
    [],
  );
  private readonly reached = new Histogram({
    name: "bold_relay_stage_seconds",
    help: "time from the request until a stage was proven, seconds",
    labelNames: ["stage"],
    buckets: SECONDS,
    registers: [this.registry],
  });
  private readonly commits = new Histogram({
    name: "bold_relay_commit_seconds",
    help: "time of one commit group, retries included, seconds; above 0.1 the database's disk is the bottleneck",
    labelNames: ["writer"],
    buckets: [0.001, 0.002, 0.005, 0.01, 0.02, 0.05, 0.1, 0.5, 1, 5, 30],
    registers: [this.registry],
  });

  /** Called once the sources exist. */
  watch(sources: MetricSources): void {
    collectDefaultMetrics({ register: this.registry });
    const flag = (value: boolean) => Number(value);
    this.gauge("link_up", "1 while messages reach the broker; alarm on 0", () => flag(sources.linkUp()));
    this.gauge(
      "link_round_trip_seconds",
      "last round trip through the broker, seconds",
      () => (sources.linkRoundTripMs() ?? 0) / 1000,
    );
    this.gauge("database_up", "1 while the database can be written; alarm on 0", () => flag(sources.databaseUp()));
    this.gauge(
      "open_requests",
      "requests without an outcome; grows while broker or database cannot be reached",
      sources.openRequests,
    );
    this.gauge("live_connections", "consoles and terminals that receive live events", sources.liveConnections);
    this.gauge("deadlines", "channels that will be switched off by a deadline", sources.deadlines);
    const devices = new Gauge({
      name: "bold_relay_devices",
      help: "devices by presence: online, offline, never-heard, not-watched",
      labelNames: ["presence"],
      registers: [this.registry],
      collect() {
        for (const [presence, count] of Object.entries(sources.counts().presence)) this.set({ presence }, count);
      },
    });
    devices.reset();
    this.gauge("channels_drifting", "channels in drift", () => sources.counts().drifting);
    this.gauge("channels_unknown", "channels that have never reported a state", () => sources.counts().unknown);
    const queue = new Gauge({
      name: "bold_relay_journal_queue",
      help: "rows that wait for their commit; inlets answer 503 when accept reaches 4000",
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
