/** The items of a panel in the YAML text of its inlet: added, moved and removed, with comments as people wrote them. Pure. */
import type { PanelItem } from "@bold-relay/core";
import { withList, withMoved } from "./list-text.ts";

const ITEMS = ["settings", "items"];

/** At the end. */
export function withPanelItem(text: string, item: PanelItem): string {
  return withList(text, ITEMS, true, (items, make) => items.items.push(make(item)));
}

export function withMovedItem(text: string, from: number, to: number): string {
  return withMoved(text, ITEMS, from, to);
}

export function withoutItem(text: string, at: number): string {
  return withList(text, ITEMS, false, (items) => items.items.splice(at, 1));
}
