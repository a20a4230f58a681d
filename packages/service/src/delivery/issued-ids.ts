/** The ids that were given out lately, to tell a channel's reports about our commands from those about others'. */
import { type ChannelId, type Command, type CommandId, shortNumber } from "@bold-relay/core";

/** How many are remembered of each channel. */
const IDS_KEPT = 32;

export class IssuedIds {
  /** By channel, in a ring: `next` is where the oldest is written over. */
  private readonly issued = new Map<ChannelId, { readonly ids: CommandId[]; next: number }>();

  add({ channel, id }: Command): void {
    let ring = this.issued.get(channel);
    if (!ring) {
      ring = { ids: [], next: 0 };
      this.issued.set(channel, ring);
    }
    ring.ids[ring.next] = id;
    ring.next = (ring.next + 1) % IDS_KEPT;
  }

  has(channel: ChannelId, id: CommandId): boolean {
    return this.issued.get(channel)?.ids.includes(id) === true;
  }

  /** Whose id ends in this number. */
  byNumber(channel: ChannelId, number: number): CommandId | null {
    return this.issued.get(channel)?.ids.find((id) => shortNumber(id) === number) ?? null;
  }
}
