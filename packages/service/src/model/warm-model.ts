/**
 * The picture of all sites, as an instance that stands by keeps it: building it takes most of the time that it takes to lead. It counts only
 * if the database still says the same when the lead is taken.
 */
import { type Snapshot, snapshotSteps } from "@bold-relay/core";
import { inPieces } from "../platform/in-pieces.ts";
import type { Log } from "../platform/log.ts";
import { findChannels, findSites } from "../store/model.ts";
import { findModelStamp } from "../store/model-versions.ts";
import type { Pool } from "../store/pool.ts";

const LOOK_EVERY_MS = 3_000;

interface Known {
  readonly stamp: string;
  readonly snapshot: Snapshot;
}

export class WarmModel {
  private readonly pool: Pool;
  private readonly log: Log;
  private known: Known | null = null;
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;

  constructor(pool: Pool, log: Log) {
    this.pool = pool;
    this.log = log;
  }

  /** From now on it is kept as the database has it. */
  start(): void {
    this.timer ??= setInterval(() => this.look(), LOOK_EVERY_MS);
    this.look();
  }

  /** Keeps nothing any more. */
  async stop(): Promise<void> {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    this.known = null;
    await this.looking;
    this.known = null;
  }

  /** The picture as the database has it now. It is given away: whoever leads keeps it from then on. */
  async take(): Promise<Snapshot> {
    const { known } = this;
    this.known = null;
    if (known && known.stamp === (await findModelStamp(this.pool))) return known.snapshot;
    return (await this.read()).snapshot;
  }

  private look(): void {
    this.looking ??= this.lookAgain()
      .catch((error: unknown) => this.log.debug({ err: error }, "the model could not be read ahead"))
      .finally(() => {
        this.looking = null;
      });
  }

  private async lookAgain(): Promise<void> {
    if (this.known?.stamp === (await findModelStamp(this.pool))) return;
    const read = await this.read();
    if (this.timer) this.known = read;
  }

  private async read(): Promise<Known> {
    // First: what changes while it is read makes the stamp one of before, and it is read again.
    const stamp = await findModelStamp(this.pool);
    const steps = snapshotSteps(await findChannels(this.pool), await findSites(this.pool));
    return { stamp, snapshot: await inPieces(steps) };
  }
}
