/** Asking from a page: the press goes out at once; what becomes of it comes back with the live events. */
import { type AskBody, ProblemError, UnreachableError } from "@bold-relay/api";
import { useState } from "react";
import { operate } from "../../api/operate.ts";

/** What a key asks for. */
export type Wish = Pick<AskBody, "action" | "value">;

export interface Asking {
  /** Pressed, and not taken by the service so far. */
  readonly pressed: Wish | null;
  /** Why the last press was not taken, and whether that is certain; null when it was taken. */
  readonly trouble: string | null;
  /** Resolves to the request's id, or null when it was not taken. */
  readonly ask: (wish: Wish) => Promise<string | null>;
}

/** @param address the channel, group or scene that is asked */
export function useAsk(address: string): Asking {
  const [pressed, setPressed] = useState<Wish | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function ask(wish: Wish): Promise<string | null> {
    setPressed(wish);
    setTrouble(null);
    try {
      const { id } = await operate.ask({ target: address, ...wish });
      return id;
    } catch (error) {
      setTrouble(troubleOf(error));
      return null;
    } finally {
      setPressed(null);
    }
  }

  return { pressed, trouble, ask };
}

/** A refusal is certain. Where no answer came, the request may have been taken; what the service has trouble with it says itself. */
function troubleOf(error: unknown): string {
  if (error instanceof UnreachableError)
    return "No answer from the service. It is unknown whether the request arrived: look at the log before you repeat it.";
  if (error instanceof ProblemError && error.problem.status < 500) return `Not sent. ${error.message}`;
  return error instanceof Error ? error.message : String(error);
}
