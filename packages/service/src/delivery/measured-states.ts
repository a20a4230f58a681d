/**
 * Channels whose state other channels tell. What their own device reports is a claim: it acknowledges a command, and what is
 * measured confirms it.
 */
import {
  type ChannelEntry,
  type ChannelId,
  isAsCommanded,
  kindOf,
  type RawMessage,
  type Report,
  seenValue,
  sourcesOf,
  type Value,
} from "@bold-relay/core";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import type { Feed } from "../state/live-feed.ts";

export class MeasuredStates {
  private readonly board: Board;
  private readonly feed: Feed;
  private readonly clock: Clock;
  private readonly takeReport: (channel: ChannelEntry, report: Report, wire: RawMessage) => void;

  constructor(
    board: Board,
    feed: Feed,
    clock: Clock,
    takeReport: (channel: ChannelEntry, report: Report, wire: RawMessage) => void,
  ) {
    this.board = board;
    this.feed = feed;
    this.clock = clock;
    this.takeReport = takeReport;
  }

  /** A channel was heard: those that it tells of are looked at anew. */
  sourceChanged(source: ChannelEntry, { live, waited }: Pick<Report, "live" | "waited">, wire: RawMessage): void {
    for (const watcher of this.board.snapshot.watchers.get(source.id) ?? []) {
      const value = this.valueOf(watcher);
      this.noteContradiction(watcher);
      if (value === null) continue;
      this.takeReport(
        watcher,
        { value, by: null, id: null, live, ...(waited ? { waited } : {}), measured: true },
        wire,
      );
    }
  }

  /** What the device says of its own output: acknowledges the command in flight that it obeys. */
  takeClaim(channel: ChannelEntry, report: Report, wire: RawMessage, lanes: LaneRunner): void {
    if (this.board.setClaim(channel.id, report.value)) this.feed.channelChanged(channel.id);
    const open = lanes.openOf(channel.id);
    if (!report.live || report.waited || open === null || open.attempts === 0 || open.acknowledgedAt !== null) return;
    const named = report.id === null || report.id === open.id;
    if (!named || open.writes === null || !isAsCommanded(channel, report.value, open.writes)) return;
    lanes.dispatch(channel.id, { type: "done", id: open.id, ok: true, code: null, wire });
  }

  private valueOf({ site, seenBy, kind, id }: ChannelEntry): Value | null {
    if (!seenBy) return null;
    const known = (path: string) => this.sourceValue(site.slug, path);
    return seenValue(seenBy, kindOf(kind), known, this.board.observedOf(id)?.value ?? null);
  }

  /** Only what was heard since the link and the source's device stood. */
  private sourceValue(site: string, path: string): Value | null {
    const source: ChannelId | undefined = this.board.snapshot.byAddress.get(`${site}/${path}`)?.id;
    return source === undefined ? null : this.board.knownOf(source);
  }

  /** Both end contacts made at once: one of them is wrong, and nobody can say which. */
  private noteContradiction(channel: ChannelEntry): void {
    const { seenBy, site, id, name } = channel;
    if (!seenBy || !("open" in seenBy)) return;
    const [open, shut] = sourcesOf(seenBy).map((path) => this.sourceValue(site.slug, path));
    const both = open === "on" && shut === "on";
    const changed = both
      ? this.board.addConcern(id, {
          kind: "ends-contradict",
          text: `Both end contacts of ${name} are made at once. Nobody can say whether it is open or shut: look at the contacts.`,
          since: this.clock.now(),
        })
      : this.board.dropConcern(id, "ends-contradict");
    if (both) this.board.putInDoubt(id, "contradicted");
    if (changed) this.feed.channelChanged(id);
  }
}
