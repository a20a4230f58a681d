/** What a panel shows and takes, at /in/<slug>. Its callers hold a key of the inlet, and see nothing but its items. */
import type { ChannelView } from "./channel-view.ts";

export type PanelItemView = {
  /** Its place on the panel, from 1. */
  place: number;
  name: string;
  /** What may be asked of it here. */
  actions: string[];
} & (
  | { is: "heading" }
  /** Who else asked, the device's name and concerns are left empty. */
  | { is: "channel"; channel: ChannelView }
  /** Of its `of` channels so many are known to be on, and of so many nobody knows. */
  | { is: "group" | "scene"; address: string; on: number; unknown: number; of: number }
  /** Nothing is called so any more. */
  | { is: "gone" }
);

/** GET /in/<slug>/panel, and the event `panel` of GET /in/<slug>/live. */
export interface PanelView {
  name: string;
  /** Whether anything can be switched there. */
  acts: boolean;
  /** When this was true. */
  at: string;
  items: PanelItemView[];
}

/** Events of GET /in/<slug>/live, by name. */
export interface PanelEvents {
  panel: PanelView;
  /** One item as it is now. */
  item: PanelItemView;
  /** Sent every few seconds: the connection stands. */
  here: { at: string };
  /** The key, the PIN or the panel counts no more. */
  ended: { why: string };
}

/** POST /in/<slug> */
export interface PanelAskBody {
  /** The address of an item. */
  target: string;
  action: string;
  value?: number | string;
}

/** POST /in/<slug>/pin */
export interface PanelPinBody {
  pin: string;
}

/** Sent as `x-panel-pin` with every other call until it ends. */
export interface PanelPinView {
  token: string;
  /** When the PIN has to be entered again. */
  until: string;
}
