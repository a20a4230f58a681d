/** Channels for which something else would be written, or whose reports would be heard elsewhere, after a change of descriptions. Pure. */
import type { ChannelId } from "../id.ts";
import { type ChannelEntry, type ChannelRecord, placesIn } from "./entry.ts";
import type { Snapshot } from "./snapshot.ts";

export interface Rewired {
  /** As it is before the change. */
  readonly channel: ChannelEntry;
  /** What the change does to it, in words. */
  readonly change: "be deleted" | "be commanded in another way" | "have other interlocks";
}

export interface Described {
  readonly snapshot: Pick<Snapshot, "byId" | "interlocks">;
  /** The channels of the sites that change, in the order of the schedule. */
  readonly records: readonly ChannelRecord[];
}

/** @param channels as they are before the change; only these are compared */
export function rewired(channels: readonly ChannelEntry[], before: Described, after: Described): Rewired[] {
  const changing = channels.filter(({ id }) => after.snapshot.byId.get(id) !== before.snapshot.byId.get(id));
  if (changing.length === 0) return [];
  const ids = new Set(changing.map(({ id }) => id));
  const [was, is] = [wirings(before.records, ids), wirings(after.records, ids)];
  return changing.flatMap((channel): Rewired[] => {
    const { id } = channel;
    const next = after.snapshot.byId.get(id);
    if (!next) return [{ channel, change: "be deleted" }];
    if (next.lane !== channel.lane || was.get(id) !== is.get(id))
      return [{ channel, change: "be commanded in another way" }];
    const isHeldAlike = interlocksOf(before.snapshot, channel) === interlocksOf(after.snapshot, channel);
    return isHeldAlike ? [] : [{ channel, change: "have other interlocks" }];
  });
}

/** All that decides which bytes go where for a channel, and which of the messages that come are its own. */
function wirings(records: readonly ChannelRecord[], ids: ReadonlySet<ChannelId>): Map<ChannelId, string> {
  const places = placesIn(records);
  return new Map(
    records.flatMap((record, at): [ChannelId, string][] => {
      if (!ids.has(record.id)) return [];
      const { id, slug, kind, site, device, profile, wiring } = record;
      const { unit: _unit, inAll: _inAll, index, ...rest } = wiring;
      const { slug: form, codec, topics, retainCommands, requestResponse, indexFrom = 1 } = profile;
      const number = index ?? (places[at] ?? 0) + indexFrom;
      const told = [site.slug, device.id, device.slug, device.topics, slug, kind, number, sorted(rest)];
      return [[id, JSON.stringify([...told, form, codec, topics, retainCommands, requestResponse, indexFrom])]];
    }),
  );
}

/** Fields in one order, whatever order they were written in. */
function sorted(fields: object): object {
  return Object.fromEntries(Object.entries(fields).sort(([one], [other]) => (one < other ? -1 : 1)));
}

function interlocksOf({ interlocks }: Described["snapshot"], { id }: ChannelEntry): string {
  const held = (interlocks.get(id) ?? []).map(({ channels, gapMs, meets }) => JSON.stringify([channels, gapMs, meets]));
  return held.sort().join(" ");
}
