/** Askers who wait to be told: each is answered once its request got where it wanted to know of, or its time is up. */
import { type Aim, type Command, hasReached, type RequestId } from "@bold-relay/core";
import type { OpenRequest } from "./request-book.ts";

interface Waiter {
  readonly until: Aim | null;
  readonly wake: () => void;
}

export class Answers {
  private readonly waiters = new Map<RequestId, Set<Waiter>>();

  /** Resolves when the request's command has durably ended or reached `until`, or after `ms`. */
  wait(request: RequestId, until: Aim | null, ms: number): Promise<void> {
    return new Promise((resolve) => {
      const waiters = this.waiters.get(request) ?? new Set();
      this.waiters.set(request, waiters);
      const done = () => {
        clearTimeout(timer);
        waiters.delete(waiter);
        if (waiters.size === 0) this.waiters.delete(request);
        resolve();
      };
      const timer = setTimeout(done, ms);
      const waiter: Waiter = { until, wake: done };
      waiters.add(waiter);
    });
  }

  /** Whether somebody wants to know that this open command got as far as it is. */
  wants(command: Command): boolean {
    const waiters = this.waiters.get(command.requestId);
    if (!waiters) return false;
    return [...waiters].some(({ until }) => until !== null && hasReached(command.stage, until));
  }

  /** Tells those who waited for this, now that it is durable. */
  tell(command: Command): void {
    for (const waiter of [...(this.waiters.get(command.requestId) ?? [])]) {
      const reached = waiter.until !== null && hasReached(command.stage, waiter.until);
      if (command.end !== null || reached) waiter.wake();
    }
  }

  /** Answers everybody with what is known: the service stops. */
  wakeAll(): void {
    for (const waiters of this.waiters.values()) for (const waiter of [...waiters]) waiter.wake();
  }
}

/** Whether every command of the request has ended or reached the stage wanted. */
export function isThere({ commands }: OpenRequest, until: Aim | null): boolean {
  const all = [...commands.values()];
  return all.every((command) => command.end !== null || (until !== null && hasReached(command.stage, until)));
}
