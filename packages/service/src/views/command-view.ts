/** A command as callers see it, with its verdict in words. */
import type { CommandView, HopView } from "@bold-relay/api";
import {
  accessOf,
  type ChannelEntry,
  channelWords,
  commandTopicsOf,
  type Hop,
  ignoredWords,
  READ,
  topicFor,
  type Value,
  verdict,
} from "@bold-relay/core";
import type { Board } from "../state/board.ts";
import type { CommandRecord } from "../store/find-requests.ts";

export function commandView(record: CommandRecord, board: Board): CommandView {
  const { id, requestId, channelId, to, urgent, forMs, targetStage, stage, end, reason, attempts, askedAt, hops } =
    record;
  const { requester, asker, inlet } = record;
  const entry = board.snapshot.byId.get(channelId);
  const presence = entry ? board.presenceOf(entry.device.address) : null;
  const toText = entry ? channelWords(entry, to) : String(to);
  const after = {
    accepted: afterMs(record, "accepted"),
    published: afterMs(record, "published"),
    acknowledged: afterMs(record, "acknowledged"),
    confirmed: afterMs(record, "confirmed"),
    ended: afterMs(record, "ended"),
  };
  const measured = hops.some((hop) => hop.measured === true);
  const reported = entry ? reportedWords(entry, to, hops) : null;
  const ignored = ignoredWords(entry?.device.name ?? "device", hops);
  return {
    id,
    requestId,
    channel: entry?.address ?? `channel ${channelId}, removed`,
    channelName: entry?.name ?? "Removed channel",
    room: entry?.room.name ?? "",
    to,
    toText,
    urgent,
    forMs,
    targetStage,
    stage,
    end,
    reason,
    attempts,
    code: hops.findLast(({ kind, wire }) => wire && (kind === "acknowledged" || kind === "refused"))?.code ?? null,
    askedAt: new Date(askedAt).toISOString(),
    after,
    requester,
    asker,
    inlet,
    verdict: verdict({
      to: toText,
      urgent,
      note: hops.findLast((hop) => hop.kind === "closed")?.note ?? null,
      said: hops.findLast((hop) => hop.kind === "refused" || hop.kind === "doubted")?.note ?? null,
      stage,
      targetStage,
      end,
      reason,
      attempts,
      code: hops.findLast((hop) => hop.kind === "refused")?.code ?? null,
      acknowledged: after.acknowledged !== null,
      already: hops.some((hop) => hop.already === true),
      unchanged: hops.some(({ kind }) => kind === "unchanged"),
      reported,
      tookMs: after.ended,
      device: entry?.device.name ?? "device",
      online: presence?.up ?? null,
      maySubscribe: reason === "nobody-listens" ? subscriptionsOf(entry, board) : [],
      topic: hops.findLast(({ kind }) => kind === "sent")?.wire?.topic ?? (entry && topicFor(entry, to)) ?? "its topic",
      reads: to === READ,
      ignored,
      measured,
    }),
    measured,
    reported,
    ignored,
  };
}

/** Where the device's user may subscribe to hear of this channel, the plainest first. */
function subscriptionsOf(entry: ChannelEntry | undefined, board: Board): string[] {
  if (!entry) return [];
  const { filters } = accessOf(board.channelsOf(entry.device.address));
  return [...commandTopicsOf(entry), ...(entry.topics.ask === null ? [] : [entry.topics.ask]), ...filters];
}

/** What was reported as proof, where that is not what was commanded word for word. */
function reportedWords(entry: ChannelEntry, to: Value, hops: readonly Hop[]): string | null {
  const value = hops.findLast(({ kind }) => kind === "confirmed")?.value;
  if (value === undefined) return null;
  const words = channelWords(entry, value);
  return to === "stop"
    ? `${words} again and again, so it stands`
    : `${words}, as written for ${channelWords(entry, to)}`;
}

export function hopViews(record: CommandRecord): HopView[] {
  return record.hops.map(({ at, ...hop }) => ({ ...hop, afterMs: sinceAsked(record, at) }));
}

function afterMs(record: CommandRecord, kind: Hop["kind"]): number | null {
  const hop = record.hops.find((one) => one.kind === kind);
  return hop ? sinceAsked(record, hop.at) : null;
}

function sinceAsked(record: CommandRecord, at: number): number {
  return Math.max(0, Math.round((at - record.askedAt) * 1000) / 1000);
}
