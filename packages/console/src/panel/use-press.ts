/** Pressing on a panel: the press goes out at once, and one that cannot is an error at once. Nothing is sent later. */
import { ProblemError, UnreachableError } from "@bold-relay/api";
import { outcomeWords } from "@bold-relay/core";
import { useState } from "react";
import type { Wish } from "../pages/board/use-ask.ts";
import type { PanelClient } from "./use-panel.ts";

export interface Pressing {
  /** Pressed, and not answered so far. */
  readonly pressed: Wish | null;
  readonly trouble: string | null;
  /** Of a group or a scene: what became of it, in words; null: nothing was pressed. */
  readonly became: { readonly words: string; readonly isGood: boolean } | null;
  readonly press: (wish: Wish) => Promise<string | null>;
}

/** @param target the address of the item */
export function usePress(client: PanelClient, target: string): Pressing {
  const [pressed, setPressed] = useState<Wish | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  const [became, setBecame] = useState<Pressing["became"]>(null);

  async function press(wish: Wish): Promise<string | null> {
    setPressed(wish);
    setTrouble(null);
    setBecame(null);
    try {
      const { action, value } = wish;
      const { id, outcome } = await client.press({
        target,
        action,
        ...(value !== undefined && value !== null && { value }),
      });
      const words = outcome === "open" ? "not confirmed yet" : outcomeWords(outcome);
      setBecame({ words, isGood: outcome === "delivered" || outcome === "open" });
      return id;
    } catch (error) {
      setTrouble(troubleOf(error));
      return null;
    } finally {
      setPressed(null);
    }
  }

  return { pressed, trouble, became, press };
}

/** A refusal is certain. Where no answer came, the press may have been taken. */
function troubleOf(error: unknown): string {
  if (error instanceof UnreachableError)
    return "No answer. It is unknown whether the press arrived: look before you press again.";
  if (error instanceof ProblemError && error.problem.status < 500) return `Not sent. ${error.message}`;
  return error instanceof Error ? error.message : String(error);
}
