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
   * @param others how many calls of other instances have no answer
   */
  async over(withinMs: number, nudge: () => void, others: () => number): Promise<void> {
    const end = performance.now() + withinMs;
    const isAny = () => others() > 0 || [...this.responses].some(({ headersSent }) => !headersSent);
    while (performance.now() < end && isAny()) {
      nudge();
      await pause(LOOK_EVERY_MS);
    }
  }
}
