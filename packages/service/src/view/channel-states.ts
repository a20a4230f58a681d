/** What channels are, in the few words that inlets answer with. */
import { type ChannelEntry, channelWords, isChannelOn, valueText } from "@bold-relay/core";
import type { Board } from "../pipeline/board.ts";

/** @returns null when nobody knows what it is */
export function observedWords(board: Board, channel: ChannelEntry) {
  const observed = board.observedOf(channel.id);
  if (!observed) return null;
  const { value } = observed;
  return { text: channelWords(channel, value), value: valueText(value), on: isChannelOn(channel, value) };
}

/** Every channel of a site, or of all. */
export function channelStates(board: Board, site: string | null) {
  const channels = board.snapshot.channels.filter((channel) => site === null || channel.site.slug === site);
  return channels.map((channel) => ({
    address: channel.address,
    name: channel.name,
    room: channel.room.name,
    is: observedWords(board, channel)?.text ?? "unknown",
    agreement: board.agreementOf(channel.id),
  }));
}
