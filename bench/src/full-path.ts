/** The full path: an HTTP request at a web inlet, durable, published, answered by the device, durable, answered. */
import { type Board, channelAddress } from "./bench-site.ts";
import { HttpAsker } from "./http-asker.ts";
import type { Ask } from "./load.ts";

export interface FullPathOptions {
  readonly url: string;
  /** Where requests are made: /in/bench */
  readonly path: string;
  readonly key: string;
  readonly connections: number;
}

/**
 * How far a request is followed before its answer counts: until it is durable; until the device has acknowledged it and that is
 * durable, which is all that this device can prove; until the device has reported it, and that is durable.
 */
export type Extent = "accepted" | "acknowledged" | "confirmed";

const BOARDS: Record<Extent, Board> = { accepted: "taker", acknowledged: "taker", confirmed: "board" };

export function openFullPath({ url, path, key, connections }: FullPathOptions) {
  const target = new URL(path, url);
  const askers = Array.from({ length: connections }, () => new HttpAsker(target, [`authorization: Bearer ${key}`]));

  function ask(extent: Extent): Ask {
    const waits = extent !== "accepted";
    const headers = `prefer: return=minimal${waits ? ", wait=10" : ""}\r\n`;
    return async (worker, turn) => {
      const asked = `{"target":"${channelAddress(BOARDS[extent], worker)}","action":"${turn % 2 === 0 ? "on" : "off"}"}`;
      const { status, body } = (await askers[worker]?.call(asked, headers)) ?? { status: 0, body: "no such asker" };
      const there = waits ? status === 200 && body.includes('"outcome":"delivered"') : status === 202;
      if (!there) throw new Error(`answered ${status}: ${body.slice(0, 300)}`);
    };
  }

  return {
    ask,
    stop: () => {
      for (const asker of askers) asker.close();
    },
  };
}
