/** Asking from a page: the press goes out at once; what becomes of it comes back with the live events. */
import type { AskBody } from "@bold-relay/api";
import { useState } from "react";
import { client } from "../../api/queries.ts";

/** What a key asks for. */
export type Wish = Pick<AskBody, "action" | "value">;

export interface Asking {
  /** Pressed, and not taken by the service so far. */
  readonly pressed: Wish | null;
  /** Why the last press was not taken; null when it was. */
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
      const { id } = await client.ask({ target: address, ...wish });
      return id;
    } catch (error) {
      setTrouble(error instanceof Error ? error.message : String(error));
      return null;
    } finally {
      setPressed(null);
    }
  }

  return { pressed, trouble, ask };
}
