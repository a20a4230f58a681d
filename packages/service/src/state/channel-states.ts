/** What channels are, in the few words that inlets answer with. */
import { type Agreement, answerOf, type ChannelEntry, type KnownState, type StaleWhy } from "@bold-relay/core";
import type { Board } from "../state/board.ts";

/** What is known of a channel's state, for answers. */
export function knownState(board: Board, channel: ChannelEntry): KnownState {
  const value = board.observedOf(channel.id)?.value ?? null;
  const lastTaken = board.lastLevelOf(channel.id);
  return { channel, value, age: board.ageOf(channel), lastTaken };
}

/** One channel, in the words of a spreadsheet. */
export interface ChannelState {
  readonly address: string;
  readonly name: string;
  readonly room: string;
  /** "on"; "on (offline)" where that is only its last word. */
  readonly is: string;
  readonly agreement: Agreement;
  /** Why it is not known to be so now; "": it is. */
  readonly stale: StaleWhy | "";
  /** Of what is not known now: when it was last heard to be so, RFC 3339; "": nobody knows. */
  readonly asOf: string;
}

/** Every channel of a site, or of all. The same as long as nothing happens: whoever compares two must find no age in it. */
export function channelStates(board: Board, site: string | null): ChannelState[] {
  const channels = board.snapshot.channels.filter((channel) => site === null || channel.site.slug === site);
  return channels.map((channel) => {
    const known = knownState(board, channel);
    const { stale, asOf } = known.age;
    const { text } = answerOf({ ...known, age: { stale: null, asOf } }, null, board.now());
    return {
      address: channel.address,
      name: channel.name,
      room: channel.room.name,
      is: stale === null || known.value === null ? text : `${text} (${stale})`,
      agreement: board.agreementOf(channel.id),
      stale: stale ?? "",
      asOf: stale === null || asOf === null ? "" : new Date(asOf).toISOString(),
    };
  });
}
