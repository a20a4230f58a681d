/** What stands for the PIN, kept for as long as this tab: the PIN itself is kept nowhere. */
import type { PanelPinView } from "@bold-relay/api";

const placeOf = (slug: string) => `panel-pin ${slug}`;

/** null: it has to be entered. */
export function keptPin(slug: string): string | null {
  return sessionStorage.getItem(placeOf(slug));
}

export function keepPin(slug: string, { token }: PanelPinView): void {
  sessionStorage.setItem(placeOf(slug), token);
}
