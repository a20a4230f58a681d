/** Askers who wait to be told: each is answered once its request got where it wanted to know of, or its time is up. */
import { type Command, type CommandId, hasReached, type RequestId, type TargetStage } from "@bold-relay/core";
import type { OpenRequest } from "../state/open-requests.ts";

interface Waiter {
  readonly until: TargetStage | null;
  /** The commands that are not there so far. */
  owed: readonly CommandId[];
  readonly wake: () => void;
}

export class Answers {
  private readonly waiters = new Map<RequestId, Set<Waiter>>();

  /** Resolves when every command of the request has durably ended or reached `until`, or after `ms`. */
  wait({ record: { id }, commands }: OpenRequest, until: TargetStage | null, ms: number): Promise<void> {
    return new Promise((resolve) => {
      const waiters = this.waiters.get(id) ?? new Set();
      this.waiters.set(id, waiters);
      const done = () => {
        clearTimeout(timer);
        waiters.delete(waiter);
        if (waiters.size === 0) this.waiters.delete(id);
        resolve();
      };
      const timer = setTimeout(done, ms);
      const owed = commands.filter((command) => !isThereYet(command, until));
      const waiter: Waiter = { until, owed: owed.map(({ id }) => id), wake: done };
      waiters.add(waiter);
    });
  }

  /** Whether somebody wants to know that this open command got as far as it is. */
  wants(command: Command): boolean {
    const waiters = this.waiters.get(command.requestId);
    if (!waiters) return false;
    for (const { until } of waiters) if (until !== null && hasReached(command.stage, until)) return true;
    return false;
  }

  /** Tells those who waited for this, now that it is durable. */
  tell(command: Command): void {
    const waiters = this.waiters.get(command.requestId);
    if (!waiters) return;
    for (const waiter of [...waiters]) {
      if (isThereYet(command, waiter.until)) waiter.owed = waiter.owed.filter((id) => id !== command.id);
      if (waiter.owed.length === 0) waiter.wake();
    }
  }

  /** Answers those who wait for these with what is known: another instance goes on with them. */
  wake(requests: readonly RequestId[]): void {
    for (const id of requests) for (const waiter of [...(this.waiters.get(id) ?? [])]) waiter.wake();
  }

  /** Answers everybody with what is known: the service stops. */
  wakeAll(): void {
    for (const waiters of this.waiters.values()) for (const waiter of [...waiters]) waiter.wake();
  }
}

/** Whether every command of the request has ended or reached the stage wanted. */
export function isThere({ commands }: OpenRequest, until: TargetStage | null): boolean {
  return commands.every((command) => isThereYet(command, until));
}

function isThereYet(command: Command, until: TargetStage | null): boolean {
  return command.end !== null || (until !== null && hasReached(command.stage, until));
}
