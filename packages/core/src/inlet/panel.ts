/** A panel: a page of buttons and readings for one person, room or tablet. What it offers is what may be asked there, and nothing else. */
import { bundleActions } from "../ask/bundle-actions.ts";
import { actionsOf } from "../ask/guard.ts";
import { kindOf } from "../channel/index.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { resolveName } from "../site/name.ts";
import type { Snapshot } from "../site/snapshot.ts";
import type { InletDescription } from "./model.ts";

/** A heading, or a channel, group or scene by name or address. */
export type PanelItem =
  | { readonly heading: string }
  | {
      readonly show: string;
      /** Its own wording; left out: what people call it. */
      readonly name?: string;
      /** false: only its state is shown. Default true. */
      readonly acts?: boolean;
    };

export interface PanelSettings {
  /** In the order of the page. */
  readonly items: readonly PanelItem[];
  /** false: nothing can be switched there. Default true. */
  readonly acts?: boolean;
}

/** An item with what it stands for now. */
export interface PanelPart {
  /** Its place on the panel, from 1. */
  readonly place: number;
  readonly name: string;
  /** null: nothing is called so any more. */
  readonly target: { readonly channel: ChannelEntry } | { readonly bundle: Bundle } | { readonly heading: true } | null;
  /** What may be asked of it here. */
  readonly actions: readonly string[];
}

export function panelSettings({ settings = {} }: Pick<InletDescription, "settings">): PanelSettings {
  return { items: [], ...settings } as PanelSettings;
}

export function panelParts(
  inlet: Pick<InletDescription, "site" | "settings">,
  snapshot: Snapshot,
): readonly PanelPart[] {
  const { items, acts = true } = panelSettings(inlet);
  const sites = inlet.site === null ? null : [inlet.site];
  return items.map((item, index): PanelPart => {
    const place = index + 1;
    if ("heading" in item) return { place, name: item.heading, target: { heading: true }, actions: [] };
    const found = resolveName(snapshot, item.show, sites);
    const mayAct = acts && item.acts !== false;
    if ("found" in found) {
      const channel = found.found;
      const actions = mayAct && !kindOf(channel.kind).input ? actionsOf(channel) : [];
      return { place, name: item.name ?? channel.name, target: { channel }, actions };
    }
    if (!("bundle" in found)) return { place, name: item.name ?? item.show, target: null, actions: [] };
    const { bundle } = found;
    const actions = mayAct ? bundleActions(bundle, snapshot.byId) : [];
    return { place, name: item.name ?? bundle.name, target: { bundle }, actions };
  });
}

/** The address of what a part stands for; null: of nothing. */
export function partAddress({ target }: PanelPart): string | null {
  if (target === null || "heading" in target) return null;
  return "channel" in target ? target.channel.address : target.bundle.address;
}

/** The part by which a panel offers this; undefined: it does not. */
export function offeredBy(
  parts: readonly PanelPart[],
  { target, action }: { readonly target: string; readonly action: string },
): PanelPart | undefined {
  return parts.find((part) => partAddress(part) === target && part.actions.includes(action));
}

/** What whoever has a link can do, by the names on the panel. */
export interface PanelReach {
  readonly switches: readonly string[];
  readonly sees: readonly string[];
}

export function panelReach(inlet: Pick<InletDescription, "site" | "settings">, snapshot: Snapshot): PanelReach {
  const shown = panelParts(inlet, snapshot).filter((part) => partAddress(part) !== null);
  return {
    switches: shown.filter(({ actions }) => actions.length > 0).map(({ name }) => name),
    sees: shown.filter(({ actions }) => actions.length === 0).map(({ name }) => name),
  };
}
