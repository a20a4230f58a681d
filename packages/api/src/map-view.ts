/** The map: who or what asks, what catches it, what it names, and the channels that it reaches. */
import type { MapColumn, MapFindingKind } from "@bold-relay/core";

/** One element, or several that are put together. */
export interface MapElementView {
  /** To choose it by: `of` of the same call. */
  id: string;
  kind: string;
  name: string;
  /** What is said of it beside its name; "": nothing. */
  note: string;
  /** How many elements it stands for. */
  count: number;
}

/** GET /api/v1/map */
export interface MapView {
  /** What was chosen; null: everything. */
  of: MapElementView | null;
  columns: Record<MapColumn, MapElementView[]>;
  lines: { from: string; to: string; weight: number }[];
  /** How many inlets of the whole team or of other sites are not shown to this caller. */
  hiddenInlets: number;
}

export interface MapAskerView {
  id: string;
  name: string;
  note: string;
  /** Nothing holds it to certain people. */
  anybody: boolean;
}

export interface MapUseView {
  /** In the days that are counted. */
  count: number;
  lastAt: string | null;
  /** The name that the requester gave; "": nobody so far. */
  lastBy: string;
}

/** One thing that can happen: who may ask, what catches it, what it does. */
export interface MapReachView {
  askers: MapAskerView[];
  /** More than are listed. */
  moreAskers: number;
  caught: { id: string; kind: string; name: string; note: string; inlet: string | null; paused: boolean };
  target: { id: string; kind: string; name: string };
  /** In words, `on`; null: whatever is asked. */
  action: string | null;
  channels: { address: string; name: string }[];
  /** More than are listed. */
  moreChannels: number;
  /** Of a channel: how often this way reached it. Else how often it was used at all. null: it is not counted apart. */
  used: MapUseView | null;
}

/** GET /api/v1/map/reach */
export interface MapReachPageView {
  of: MapElementView | null;
  /** Of one channel. */
  channel: {
    address: string;
    name: string;
    /** Where commands are published. */
    topic: string;
    /** What stands in the way of a request just now, in words. */
    obstacles: string[];
    /** Ways that reached it and are not described any more, or are told apart no further. */
    others: ({ way: string } & MapUseView)[];
  } | null;
  rows: MapReachView[];
  /** More than are listed: choose an element, or export the table. */
  moreRows: number;
  /** How many days are counted. */
  days: number;
  /** Since when uses are counted. */
  countedSince: string;
  hiddenInlets: number;
}

/** GET /api/v1/map/findings */
export interface MapFindingView {
  kind: MapFindingKind;
  /** The id of the element that it is about. */
  element: string;
  name: string;
  site: string | null;
  text: string;
}

export interface MapQuery {
  /** The id of an element, or a name: of a channel, a group, a scene, an inlet, a member, a site. */
  of?: string;
  /** Only channels of this site. */
  site?: string;
}
