/** The Board as it is read and as it changes meanwhile: a change that arrives while an older answer is on its way is kept. */
import type { BoardView, ChannelView } from "@bold-relay/api";

/**
 * The board with one channel in its place; the same board where it has no such channel.
 *
 * @example withChannel({ sites: [{ slug: "glasshouse", channels: [lampOff] }] }, lampOn) // → … channels: [lampOn]
 */
export function withChannel(board: BoardView, channel: ChannelView): BoardView {
  const sites = board.sites.map((site) => {
    if (!channel.address.startsWith(`${site.slug}/`)) return site;
    return { ...site, channels: site.channels.map((one) => (one.address === channel.address ? channel : one)) };
  });
  return { ...board, sites };
}

/**
 * Reads the board, and puts the changes that arrived since the reading began over what was read. An answer may have been
 * made before a change and arrive after it; where it was made later, the change that made it so is still to arrive.
 */
export class BoardReader {
  private readonly readings = new Set<ChannelView[]>();

  private readonly fetchBoard: () => Promise<BoardView>;

  constructor(fetchBoard: () => Promise<BoardView>) {
    this.fetchBoard = fetchBoard;
  }

  /** Errors are those of the call. */
  async read(): Promise<BoardView> {
    const changes: ChannelView[] = [];
    this.readings.add(changes);
    try {
      return changes.reduce(withChannel, await this.fetchBoard());
    } finally {
      this.readings.delete(changes);
    }
  }

  /** A channel changed. */
  changed(channel: ChannelView): void {
    for (const changes of this.readings) changes.push(channel);
  }
}

/**
 * The board of which nothing was heard since then: no state of it counts as known.
 *
 * @param since ms since 1970
 */
export function asLastHeard(board: BoardView, since: number): BoardView {
  const asOf = new Date(since).toISOString();
  const aged = (channel: ChannelView) => agedChannel(channel, asOf);
  return { ...board, sites: board.sites.map((site) => ({ ...site, channels: site.channels.map(aged) })) };
}

/** A channel whose state was known until then. @param asOf RFC 3339 */
export function agedChannel(channel: ChannelView, asOf: string): ChannelView {
  return channel.observed === null || channel.observed.stale !== null
    ? channel
    : { ...channel, observed: { ...channel.observed, stale: "unheard", asOf } };
}
