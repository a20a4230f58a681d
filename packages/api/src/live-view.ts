/** What is told live. */
import type { Outcome } from "@bold-relay/core";
import type { ChannelView, StatusView } from "./channel-view.ts";

/** Server-sent events of GET /api/v1/live, by name. */
export interface LiveEvents {
  /**
   * First on every connection: from now on nothing is missed. `resumed`: what was missed since `Last-Event-ID`
   * follows; else read the board afresh.
   */
  hello: { at: string; resumed: boolean };
  /** `Last-Event-ID` is too old, or of another start: what was missed is not known. */
  reset: Record<string, never>;
  /** A channel's state or its last command changed. */
  channel: ChannelView;
  /** A request changed; its trace tells more. `outcome` is null when only its trace has: something was said back. */
  request: { id: string; outcome: Outcome | null };
  /** What these sites are made of has changed: read the board afresh. */
  model: { sites: string[] };
  /** What needs alerts has changed; so many alerts are open in the whole team. */
  alerts: { open: number };
  /** The broker, the database or another instance that leads came or went. */
  status: Pick<StatusView, "broker" | "database" | "missing">;
}
