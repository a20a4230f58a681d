/** What a panel shows: its items as they are now. Who else asked, and what is set up around them, is not told there. */
import type { ChannelView, CommandView, PanelItemView, PanelView } from "@bold-relay/api";
import { type ChannelEntry, type InletDescription, type PanelPart, panelParts, type Snapshot } from "@bold-relay/core";

export interface PanelSource {
  /** As it is now. */
  readonly snapshot: () => Snapshot;
  readonly view: (channel: ChannelEntry) => ChannelView;
  readonly now: () => number;
  /** Ends with the function that it returns. */
  readonly watch: (watcher: PanelWatcher) => () => void;
}

export interface PanelWatcher {
  /** Told the address of a channel that changed, or null when sites were changed. */
  readonly changed: (channel: string | null) => void;
  /** Nothing more will be told: the service stops. */
  readonly ended: () => void;
}

export function panelView(inlet: InletDescription, source: PanelSource): PanelView {
  const parts = panelParts(inlet, source.snapshot());
  return {
    name: inlet.name,
    acts: parts.some(({ actions }) => actions.length > 0),
    at: new Date(source.now()).toISOString(),
    items: parts.map((part) => panelItemView(part, inlet.slug, source)),
  };
}

export function panelItemView(part: PanelPart, inlet: string, source: PanelSource): PanelItemView {
  const { place, name, target, actions } = part;
  const item = { place, name, actions: [...actions] };
  if (target === null) return { ...item, is: "gone" };
  if ("heading" in target) return { ...item, is: "heading" };
  if ("channel" in target) return { ...item, is: "channel", channel: ownView(source.view(target.channel), inlet) };
  const channels = channelsOf(part, source).map((channel) => source.view(channel));
  const known = channels.filter(({ observed }) => observed !== null && observed.stale === null);
  const on = known.filter(({ observed }) => observed?.on).length;
  const { kind, address } = target.bundle;
  return { ...item, is: kind, address, on, unknown: channels.length - known.length, of: channels.length };
}

/** The channels whose state a part shows. */
export function channelsOf({ target }: PanelPart, { snapshot }: PanelSource): ChannelEntry[] {
  if (target === null || "heading" in target) return [];
  if ("channel" in target) return [target.channel];
  const { byId } = snapshot();
  return target.bundle.members.flatMap(({ channel }) => byId.get(channel) ?? []);
}

function ownView(view: ChannelView, inlet: string): ChannelView {
  const { commanded, lastCommand, lockout, device } = view;
  return {
    ...view,
    device: { ...device, name: "" },
    concerns: [],
    lockout: lockout && { ...lockout, id: "", holderId: null, reason: null },
    commanded: commanded && (commanded.inlet === inlet ? commanded : { ...commanded, asker: "", inlet: "" }),
    lastCommand: lastCommand && ownCommand(lastCommand, inlet),
  };
}

/** How far it got; what is said of it at length may name people and topics. */
function ownCommand(command: CommandView, inlet: string): CommandView {
  const told = { ...command, verdict: { ...command.verdict, text: "" }, ignored: null };
  return command.inlet === inlet ? told : { ...told, asker: "", inlet: "" };
}
