/** Requests that have no answer so far: whoever hands the lead over waits for them. A stream has its answer once it has begun. */
import type { RequestListener, ServerResponse } from "node:http";
import { setTimeout as pause } from "node:timers/promises";

const LOOK_EVERY_MS = 20;

export class Unanswered {
  private readonly responses = new Set<ServerResponse>();

  /** The same listener; what it is asked is counted. */
  counted(serve: RequestListener): RequestListener {
    return (req, res) => {
      this.responses.add(res);
      res.once("close", () => this.responses.delete(res));
      serve(req, res);
    };
  }

  /**
   * Resolves once everything is answered, or after a while.
   *
   * @param nudge called again and again: answers those who wait for more than is known
   */
  async over(withinMs: number, nudge: () => void): Promise<void> {
    const end = performance.now() + withinMs;
    while (performance.now() < end && [...this.responses].some(({ headersSent }) => !headersSent)) {
      nudge();
      await pause(LOOK_EVERY_MS);
    }
  }
}
