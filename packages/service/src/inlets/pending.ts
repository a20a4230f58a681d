/** What senders were asked back: "which one?" Remembered for each of them, for a minute. */
import { type Choice, chooseAmong, type Decided } from "@bold-relay/core";

interface Asked {
  /** The phrase as it was said. */
  readonly text: string;
  /** Which name of it is meant. */
  readonly at: number;
  readonly choices: readonly Choice[];
}

const REMEMBERED_MS = 60_000;
const MOST_SENDERS = 1_000;

export class PendingChoices {
  private readonly bySender = new Map<string, Asked & { readonly until: number }>();

  remember(sender: string, asked: Asked): void {
    if (this.bySender.size >= MOST_SENDERS) this.bySender.clear();
    this.bySender.set(sender, { ...asked, until: performance.now() + REMEMBERED_MS });
  }

  /** Whatever the sender says next is either the answer or something new. */
  forget(sender: string): void {
    this.bySender.delete(sender);
  }

  /** @returns the phrase and what was decided of it; null when this is no answer to anything */
  answered(sender: string, answer: string): { readonly text: string; readonly decided: Decided } | null {
    const asked = this.bySender.get(sender);
    if (!asked || performance.now() >= asked.until) return null;
    const chosen = chooseAmong(answer, asked.choices);
    return chosen === null ? null : { text: asked.text, decided: new Map([[asked.at, chosen]]) };
  }
}
