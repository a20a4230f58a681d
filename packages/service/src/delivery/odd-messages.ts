/** Messages that meant nothing: counted, and told in the log once a topic and minute. */
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { Metrics } from "../platform/metrics.ts";

const TOLD_EVERY_MS = 60_000;
const MOST_TOPICS = 1_000;

export interface OddMessagesDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly metrics: Pick<Metrics, "messageIgnored">;
}

export class OddMessages {
  private readonly deps: OddMessagesDeps;
  private readonly byTopic = new Map<string, { readonly since: number; count: number }>();

  constructor(deps: OddMessagesDeps) {
    this.deps = deps;
  }

  note(topic: string, why: string): void {
    const { clock, log, metrics } = this.deps;
    metrics.messageIgnored();
    const now = clock.now();
    const known = this.byTopic.get(topic);
    if (known && now - known.since < TOLD_EVERY_MS) {
      known.count += 1;
      return;
    }
    // Bounded: a flood of invented topics must not fill the memory.
    if (this.byTopic.size >= MOST_TOPICS) this.byTopic.clear();
    this.byTopic.set(topic, { since: now, count: 0 });
    log.warn({ topic, why, since: known?.count ?? 0 }, "message ignored");
  }
}
