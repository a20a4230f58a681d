/**
 * What has been started, in the order of its start. It is stopped in reverse: also when a later part does not start, and when the
 * lease is lost. One that fails to stop is a log line; the others stop all the same.
 */
import type { Log } from "../platform/log.ts";

/** How a part ends. */
export interface Ending {
  /** Finishes what is under way. */
  readonly drain: () => Promise<void> | void;
  /** Stops where it is, for another instance has taken over or the start failed; default: as `drain`. */
  readonly abandon?: () => Promise<void> | void;
}

/** Nobody waits longer for parts that are abandoned, ms: what they still bring is refused by the database. */
const ABANDON_MS = 2_000;

export class StopStack {
  private readonly log: Log;
  private readonly onStarted: (name: string) => void;
  private readonly started: { readonly name: string; readonly ending: Ending }[] = [];

  /** @param onStarted told of each part once it has started; throws where a test wants the start to fail there */
  constructor(log: Log, onStarted: (name: string) => void = () => {}) {
    this.log = log;
    this.onStarted = onStarted;
  }

  /** Starts a part. It is stopped even if its start fails half-way. */
  async start(name: string, start: () => Promise<void> | void, ending: Ending): Promise<void> {
    this.onStop(name, ending);
    await start();
    this.onStarted(name);
  }

  /** For a part that needs no start, or is started later than it should be stopped. */
  onStop(name: string, ending: Ending): void {
    this.started.push({ name, ending });
  }

  /** One after the other, the last first. */
  async drain(): Promise<void> {
    for (let last = this.started.pop(); last; last = this.started.pop()) {
      const { name, ending } = last;
      await Promise.resolve()
        .then(() => ending.drain())
        .catch((error: unknown) => this.noteFailure(name, error));
    }
  }

  /** All at once, the last first. */
  async abandon(): Promise<void> {
    const all = this.started.splice(0).reverse();
    const over = all.map(async ({ name, ending: { drain, abandon = drain } }) => {
      try {
        await abandon();
      } catch (error) {
        this.noteFailure(name, error);
      }
    });
    let late: NodeJS.Timeout | undefined;
    const patience = new Promise<void>((resolve) => {
      late = setTimeout(resolve, ABANDON_MS);
    });
    await Promise.race([Promise.all(over), patience]);
    clearTimeout(late);
  }

  private noteFailure(part: string, error: unknown): void {
    this.log.warn({ err: error, part }, "a part could not be stopped as it should");
  }
}
