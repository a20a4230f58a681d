/**
 * What the Board showed last, kept on this device for when it opens without a connection. Only where the browser keeps files for a
 * page at all: over HTTPS or on the same machine. It is shown as what was, never as what is, and goes with the session.
 */
import type { BoardView } from "@bold-relay/api";
import { STORE } from "./last-board-store.ts";

export interface LastBoard {
  /** When it was known to be so, ms since 1970. */
  readonly at: number;
  readonly member: string;
  readonly sites: readonly {
    readonly name: string;
    readonly channels: readonly {
      readonly address: string;
      readonly number: number;
      readonly name: string;
      readonly room: string;
      /** null: nobody knew even then. */
      readonly state: string | null;
    }[];
  }[];
}

const PLACE = "/last-board";

/** @returns what is worth keeping of the board that is shown */
export function lastBoardOf(board: BoardView, member: string, at: number): LastBoard {
  const sites = board.sites.map(({ name, channels }) => ({
    name,
    channels: channels.map(({ address, number, name, room, observed }) => ({
      address,
      number,
      name,
      room: room.name,
      state: observed === null || observed.stale !== null ? null : observed.text,
    })),
  }));
  return { at, member, sites };
}

export async function keepLastBoard(board: LastBoard): Promise<void> {
  const store = await globalThis.caches?.open(STORE);
  await store?.put(PLACE, new Response(JSON.stringify(board), { headers: { "content-type": "application/json" } }));
}

/** @returns null where nothing is kept */
export async function readLastBoard(): Promise<LastBoard | null> {
  const kept = await globalThis.caches?.match(PLACE, { cacheName: STORE });
  return kept ? ((await kept.json()) as LastBoard) : null;
}
