/** Reads what the database has of channels into memory: what each was last seen to be, and was last told. */
import type { ChannelId } from "@bold-relay/core";
import { findLastCommands, findObserved, findTaken } from "../store/channel-state.ts";
import type { Pool } from "../store/pool.ts";
import type { Board } from "./board.ts";

/** So many channels are read at once while others are served: taking them on holds those up for a few ms. */
const AT_ONCE = 1_000;

/** All channels, at the start. */
export async function readAllStates(pool: Pool, board: Board): Promise<void> {
  takeOn(board, await read(pool, null));
}

/** What others have written of these channels since counts, and nothing that was known before. */
export async function readStatesAgain(pool: Pool, board: Board, channels: readonly ChannelId[]): Promise<void> {
  for (let start = 0; start < channels.length; start += AT_ONCE) {
    const some = channels.slice(start, start + AT_ONCE);
    const states = await read(pool, some);
    for (const channel of some) board.forget(channel);
    takeOn(board, states);
  }
}

type States = Awaited<ReturnType<typeof read>>;

async function read(pool: Pool, channels: readonly ChannelId[] | null) {
  return {
    observed: await findObserved(pool, channels),
    commanded: await findLastCommands(pool, channels),
    taken: await findTaken(pool, channels),
  };
}

function takeOn(board: Board, { observed, commanded, taken }: States): void {
  for (const record of observed) board.remember(record);
  for (const record of commanded) board.setEarlierCommand(record);
  for (const { channelId, ...one } of taken) board.setTaken(channelId, one);
}
