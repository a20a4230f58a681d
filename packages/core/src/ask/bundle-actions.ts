/** What a group or a scene can be asked as a whole. */
import { channelKinds } from "../channel/index.ts";
import type { ChannelId } from "../id.ts";
import type { Bundle } from "../site/bundle.ts";
import type { ChannelEntry } from "../site/entry.ts";
import { RECALL } from "./guard.ts";

/** Of a group, what every channel of it takes; a scene is recalled. */
export function bundleActions({ kind, members }: Bundle, byId: ReadonlyMap<ChannelId, ChannelEntry>): string[] {
  if (kind === "scene") return [RECALL];
  const channels = members.flatMap(({ channel }) => byId.get(channel) ?? []);
  const takesAll = (action: string) => channels.every((one) => Object.hasOwn(channelKinds[one.kind].actions, action));
  return ["on", "off", "toggle"].filter(takesAll);
}
