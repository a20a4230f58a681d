/** The last 24 hours of a channel: when it was on, how each command ended, a page of both, and the answer in one line. */
import type { HistoryEntry, HistoryView } from "@bold-relay/api";
import {
  type ChannelEntry,
  causeWords,
  channelWords,
  commandsTold,
  countsNumbers,
  DAY_MS,
  type HistoryCommand,
  type HistoryFacts,
  historyAnswer,
  isChannelOn,
  isOn,
  isStopped,
  kindOf,
  onStretches,
  onTimeMs,
  READ,
  readingAnswer,
  readsNumbers,
  requesterText,
  smallestIdAt,
  type Value,
  wasOn,
} from "@bold-relay/core";
import type { Clock } from "../platform/clock.ts";
import type { Board } from "../state/board.ts";
import {
  type ChangeRecord,
  type DayCommand,
  findChangesAndCommands,
  findChannelCommands,
  MOST_OF_DAY,
} from "../store/find-day.ts";
import { findReadings } from "../store/find-history.ts";
import type { CommandRecord } from "../store/find-requests.ts";
import type { Pool } from "../store/pool.ts";
import { commandView } from "../views/command-view.ts";

/** The lowest and the highest reading of a day are told with their time as exactly as this. */
const READ_STRETCH_MS = 5 * 60_000;

/** Entries, where the caller does not say how many. */
const PAGE = 50;

interface HistoryQuery {
  /** IANA time zone of the reader, for the times in the answer of a site that has none of its own. Default: UTC. */
  readonly zone?: string;
  /** Only entries before this moment. */
  readonly before?: Date;
  /** Most entries; those of one millisecond are never parted. Default: 50. */
  readonly limit?: number;
}

export async function historyView(
  channel: ChannelEntry,
  { zone = "UTC", before, limit = PAGE }: HistoryQuery,
  { pool, board, clock }: { pool: Pool; board: Board; clock: Clock },
): Promise<HistoryView> {
  const now = clock.now();
  const since = smallestIdAt(now - DAY_MS);
  const found = await findChangesAndCommands(pool, channel.id, since);
  const from = startOf(found, now - DAY_MS);
  const words = (value: Value) => channelWords(channel, value);
  const changes = found.changes.filter(({ at }) => at >= from);
  const all = found.commands.filter(({ at }) => at >= from);
  // Who asked what it is has changed nothing.
  const commands = all.filter(({ to }) => to !== READ).map((record) => ({ record, ...record, to: words(record.to) }));
  const observed = board.observedOf(channel.id);
  const isReading = readsNumbers(kindOf(channel.kind));
  const isSwitched = !countsNumbers(kindOf(channel.kind));
  const facts: HistoryFacts<HistoryCommand & { record: DayCommand }> = {
    name: `${channel.name}, ${channel.room.name}`,
    is: observed && words(observed.value),
    isSwitched,
    isOnNow: observed !== null && isChannelOn(channel, observed.value),
    online: board.presenceOf(channel.device.address)?.up ?? null,
    changes,
    commands,
    from,
    now,
    clock: clockIn(board.zoneOf(channel.site.slug), zone),
  };
  const page = pageOf([...changes, ...all], before?.getTime() ?? Number.POSITIVE_INFINITY, limit);
  const told = Object.values(commandsTold(facts)).flatMap((command) => command?.record ?? []);
  const shown = [...page.entries.filter((entry) => "requestId" in entry), ...told];
  const details = new Map((await findChannelCommands(pool, channel.id, shown)).map((record) => [record.id, record]));
  const detailOf = ({ record }: { record: DayCommand }) => {
    const detail = details.get(record.id);
    return detail
      ? { by: byWords(detail), headline: commandView(detail, board).verdict.headline }
      : { by: "a request that is no longer kept", headline: "" };
  };
  return {
    channel: channel.address,
    name: facts.name,
    kind: channel.kind,
    from: timeText(from),
    at: timeText(now),
    answer: isReading
      ? readingAnswer({ ...facts, points: await findReadings(pool, channel.id, since, READ_STRETCH_MS), words })
      : historyAnswer(facts, detailOf),
    onMs: isSwitched ? Math.round(onTimeMs(facts)) : 0,
    wasOn: isSwitched && wasOn(facts),
    on: !isSwitched ? [] : onStretches(facts).map((one) => ({ from: timeText(one.from), to: timeText(one.to) })),
    commanded: commands.length,
    notDelivered: commands.filter(({ end }) => isStopped(end)).length,
    commands: commands.map(({ at, end }) => ({ at: timeText(at), end })),
    entries: page.entries.flatMap((entry) => {
      if (!("requestId" in entry)) return [changeEntry(entry, words, { isReading, isSwitched })];
      const record = details.get(entry.id);
      return record ? [commandEntry(record, board)] : [];
    }),
    older: page.older === null ? null : timeText(page.older),
  };
}

/** What is before the oldest that was read is not told of: it would be told wrong. */
function startOf(found: { changes: readonly { at: number }[]; commands: readonly { at: number }[] }, dayAgo: number) {
  const cut = [found.changes, found.commands].filter(({ length }) => length === MOST_OF_DAY);
  return Math.max(dayAgo, ...cut.map(([oldest]) => oldest?.at ?? dayAgo));
}

/** The newest before a moment, oldest first. @returns `older`: before which there are more */
function pageOf<Entry extends { at: number }>(entries: readonly Entry[], before: number, limit: number) {
  const sorted = entries.filter(({ at }) => at < before).sort((one, other) => one.at - other.at);
  // The cursor is a time: what happened in one millisecond must not be parted by it.
  const first = Math.floor(sorted[Math.max(0, sorted.length - limit)]?.at ?? 0);
  const page = sorted.filter(({ at }) => at >= first);
  return { entries: page, older: page.length < sorted.length ? first : null };
}

/** A reading changes by itself, and is neither on nor off. */
function changeEntry(
  { at, to, cause }: ChangeRecord,
  words: (value: ChangeRecord["to"]) => string,
  { isReading, isSwitched }: { readonly isReading: boolean; readonly isSwitched: boolean },
): HistoryEntry {
  const by = causeWords(cause) ?? (cause === "command" ? "as commanded" : isReading ? "" : "unknown cause");
  return { at: timeText(at), kind: "change", is: words(to), on: isSwitched ? isOn(to) : null, by, command: null };
}

function commandEntry(record: CommandRecord, board: Board): HistoryEntry {
  const command = commandView(record, board);
  return {
    at: timeText(record.askedAt),
    kind: "command",
    is: command.toText,
    on: null,
    by: byWords(record),
    command,
  };
}

function byWords({ requester, asker, inlet }: CommandRecord): string {
  return requesterText(requester, asker, inlet);
}

function timeText(at: number): string {
  return new Date(at).toISOString();
}

/**
 * The time at the place. Where that is not the reader's, it says so.
 *
 * @throws RangeError when there is no such zone
 */
function clockIn(ofSite: string | null, ofReader: string): (at: number) => string {
  const timeZone = ofSite ?? ofReader;
  const form = new Intl.DateTimeFormat("en-GB", { timeZone, hour: "2-digit", minute: "2-digit", hour12: false });
  const reader = new Intl.DateTimeFormat("en-GB", {
    timeZone: ofReader,
    hour: "2-digit",
    minute: "2-digit",
    hour12: false,
  });
  return (at) => (form.format(at) === reader.format(at) ? form.format(at) : `${form.format(at)} (${timeZone})`);
}
