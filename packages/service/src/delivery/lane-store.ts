/** Lanes of one sort, by their id. */
import { type ChannelId, emptyLane, isIdle, type Lane } from "@bold-relay/core";

export class LaneStore {
  private readonly lanes = new Map<ChannelId, Lane>();
  /** Lanes with something open. */
  private readonly active = new Set<ChannelId>();
  private readonly keepsIdle: boolean;

  /** @param keepsIdle whether a lane is remembered when nothing is open in it: what was sent last binds what comes next */
  constructor(keepsIdle: boolean) {
    this.keepsIdle = keepsIdle;
  }

  of(id: ChannelId): Lane {
    return this.lanes.get(id) ?? emptyLane(id);
  }

  /** Whether something is open in this lane. */
  isActive(id: ChannelId): boolean {
    return this.active.has(id);
  }

  /** The lanes with something open, which may change while they are gone through. */
  get open(): Iterable<ChannelId> {
    return this.active;
  }

  /** Lets go of lanes that another instance has now. */
  drop(isGone: (id: ChannelId) => boolean): void {
    for (const id of this.lanes.keys()) {
      if (!isGone(id)) continue;
      this.lanes.delete(id);
      this.active.delete(id);
    }
  }

  put(lane: Lane): void {
    const idle = isIdle(lane);
    if (idle && !this.keepsIdle) this.lanes.delete(lane.id);
    else this.lanes.set(lane.id, lane);
    if (idle) this.active.delete(lane.id);
    else this.active.add(lane.id);
  }
}
