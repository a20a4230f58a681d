/** Asking from a page: the press goes out at once; what becomes of it comes back with the live events. */
import type { Value } from "@bold-relay/core";
import { useState } from "react";
import { client } from "../../api/queries.ts";

export interface Asking {
  /** Pressed, and not taken by the service so far. */
  readonly pressed: Value | null;
  /** Why the last press was not taken; null when it was. */
  readonly trouble: string | null;
  /** Resolves to the request's id, or null when it was not taken. */
  readonly ask: (value: Value) => Promise<string | null>;
}

/** @param address the channel that is asked */
export function useAsk(address: string): Asking {
  const [pressed, setPressed] = useState<Value | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);

  async function ask(value: Value): Promise<string | null> {
    setPressed(value);
    setTrouble(null);
    try {
      const { id } = await client.ask({ target: address, action: value });
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
