/** What channels are, in the few words that inlets answer with. */
import { answerOf, type ChannelEntry, type KnownState } from "@bold-relay/core";
import type { Board } from "../pipeline/board.ts";

/** What is known of a channel's state, for answers. */
export function knownState(board: Board, channel: ChannelEntry): KnownState {
  const value = board.observedOf(channel.id)?.value ?? null;
  const lastTaken = board.lastLevelOf(channel.id);
  return { channel, value, age: board.ageOf(channel), lastTaken };
}

/** Every channel of a site, or of all. */
export function channelStates(board: Board, site: string | null) {
  const channels = board.snapshot.channels.filter((channel) => site === null || channel.site.slug === site);
  return channels.map((channel) => ({
    address: channel.address,
    name: channel.name,
    room: channel.room.name,
    is: answerOf(knownState(board, channel), null, board.now()).text,
    agreement: board.agreementOf(channel.id),
  }));
}
