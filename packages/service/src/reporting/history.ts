/** The last 24 hours of a channel: every change and every command on one line of time, and the answer in one line. */
import type { HistoryEntry, HistoryView } from "@bold-relay/api";
import {
  type ChannelEntry,
  causeWords,
  channelWords,
  DAY_MS,
  historyAnswer,
  isChannelOn,
  isOn,
  kindOf,
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
import { type ChangeRecord, findChangesAndCommands } from "../store/find-day.ts";
import { findReadings } from "../store/find-history.ts";
import type { CommandRecord } from "../store/find-requests.ts";
import type { Pool } from "../store/pool.ts";
import { commandView } from "../views/command-view.ts";

/** The lowest and the highest reading of a day are told with their time as exactly as this. */
const READ_STRETCH_MS = 5 * 60_000;

/** @param zone IANA time zone of the reader, for the times in the answer of a site that has none of its own */
export async function historyView(
  channel: ChannelEntry,
  zone: string,
  { pool, board, clock }: { pool: Pool; board: Board; clock: Clock },
): Promise<HistoryView> {
  const now = clock.now();
  const from = now - DAY_MS;
  const since = smallestIdAt(from);
  const { changes, commands } = await findChangesAndCommands(pool, channel.id, since);
  const words = (value: Value) => channelWords(channel, value);
  const observed = board.observedOf(channel.id);
  const views = commands.map((record) => ({ record, view: commandView(record, board) }));
  const online = board.presenceOf(channel.device.address)?.up ?? null;
  const isReading = readsNumbers(kindOf(channel.kind));
  const facts = {
    name: `${channel.name}, ${channel.room.name}`,
    is: observed && words(observed.value),
    isOnNow: observed !== null && isChannelOn(channel, observed.value),
    online,
    changes,
    // Who asked what it is has changed nothing.
    commands: views
      .filter(({ record }) => record.to !== READ)
      .map(({ record, view }) => ({
        at: record.askedAt,
        by: requesterText(record.requester, record.asker, record.inlet),
        to: view.toText,
        end: record.end,
        headline: view.verdict.headline,
      })),
    from,
    now,
    clock: clockIn(board.zoneOf(channel.site.slug), zone),
  };
  const entries = [
    ...changes.map((change) => changeEntry(change, words, isReading)),
    ...views.map(({ record, view }) => commandEntry(record, view)),
  ].sort((one, other) => (one.at < other.at ? -1 : 1));
  return {
    channel: channel.address,
    name: facts.name,
    kind: channel.kind,
    from: new Date(from).toISOString(),
    at: new Date(now).toISOString(),
    answer: isReading
      ? readingAnswer({ ...facts, points: await findReadings(pool, channel.id, since, READ_STRETCH_MS), words })
      : historyAnswer(facts),
    onMs: isReading ? 0 : Math.round(onTimeMs(facts)),
    wasOn: !isReading && wasOn(facts),
    entries,
  };
}

/** A reading changes by itself, and is neither on nor off. */
function changeEntry(
  { at, to, cause }: ChangeRecord,
  words: (value: ChangeRecord["to"]) => string,
  isReading: boolean,
): HistoryEntry {
  const by = causeWords(cause) ?? (cause === "command" ? "as commanded" : isReading ? "" : "unknown cause");
  return {
    at: new Date(at).toISOString(),
    kind: "change",
    is: words(to),
    on: isReading ? null : isOn(to),
    by,
    command: null,
  };
}

function commandEntry(
  { askedAt, requester, asker, inlet }: CommandRecord,
  view: HistoryEntry["command"] & object,
): HistoryEntry {
  const by = requesterText(requester, asker, inlet);
  return { at: new Date(askedAt).toISOString(), kind: "command", is: view.toText, on: null, by, command: view };
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
