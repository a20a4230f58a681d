/** What exactly one instance does for everybody: the one that leads the first shard. */
import type { Shards } from "../requests/shards.ts";

interface Job {
  readonly start: () => Promise<void> | void;
  readonly stop: () => Promise<void> | void;
}

export class FirstJobs {
  private readonly shards: Shards;
  private readonly jobs: Job[] = [];
  private running = false;
  private turn: Promise<void> = Promise.resolve();

  constructor(shards: Shards) {
    this.shards = shards;
  }

  /** A job may be started and stopped again and again. */
  add(job: Job): void {
    this.jobs.push(job);
  }

  /** Begins with them where the first shard has come here, and ends where it has gone. */
  update(): Promise<void> {
    return this.become(this.shards.leads(0));
  }

  stop(): Promise<void> {
    return this.become(false);
  }

  private become(wanted: boolean): Promise<void> {
    this.turn = this.turn
      .catch(() => {})
      .then(async () => {
        if (this.running === wanted) return;
        this.running = wanted;
        const jobs = wanted ? this.jobs : [...this.jobs].reverse();
        for (const job of jobs) await (wanted ? job.start() : job.stop());
      });
    return this.turn;
  }
}
