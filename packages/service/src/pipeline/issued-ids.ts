/** The ids that were given out lately, to tell a channel's reports about our commands from those about others'. */
import type { ChannelId, Command, CommandId } from "@bold-relay/core";

/** How many are remembered of each channel. */
const IDS_KEPT = 32;

export class IssuedIds {
  /** By channel, newest last. */
  private readonly issued = new Map<ChannelId, Set<CommandId>>();

  add({ channel, id }: Command): void {
    const ids = this.issued.get(channel) ?? new Set();
    this.issued.set(channel, ids.add(id));
    if (ids.size <= IDS_KEPT) return;
    const [oldest] = ids;
    if (oldest !== undefined) ids.delete(oldest);
  }

  has(channel: ChannelId, id: CommandId): boolean {
    return this.issued.get(channel)?.has(id) === true;
  }
}
