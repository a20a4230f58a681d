/** What happened, in the form in which outside services are told of it. */
import {
  type ChannelEntry,
  type Command,
  channelWords,
  type NotificationEvent,
  type Observed,
  type Outcome,
  type RelayError,
  type RequestId,
  traceparentFor,
} from "@bold-relay/core";
import type { Board } from "../state/board.ts";
import type { AcceptRow } from "../store/accept-rows.ts";
import type { RequestRecord } from "../store/find-requests.ts";

/** What every message about a request says of it. */
function requestData({
  id,
  requester,
  inlet,
  asker,
  target,
  action,
  value,
  askedAt,
}: Pick<
  RequestRecord | AcceptRow,
  "id" | "requester" | "inlet" | "asker" | "target" | "action" | "value" | "askedAt"
>) {
  return { request: id, requester, inlet, asker, target, action, value, askedAt: time(askedAt) };
}

export function outcomeNotification(
  request: RequestRecord,
  outcome: Outcome,
  commands: readonly Command[],
  board: Board,
): NotificationEvent {
  const entries = commands.map((command) => ({ command, entry: board.snapshot.byId.get(command.channel) }));
  const site = entries.find(({ entry }) => entry)?.entry?.site.slug ?? null;
  const told = entries.map(({ command: { to, stage, end, reason }, entry }) => {
    return { channel: entry?.address ?? null, to, stage, end, reason };
  });
  const { id, traceparent } = request;
  const data = { ...requestData(request), outcome, commands: told };
  return { what: "outcome", outcome, site, subject: id, data, traceparent: traceparentFor(id, traceparent, id) };
}

/** Nothing was sent. */
export function refusedNotification(
  row: AcceptRow,
  { code, message }: RelayError,
  outcome: "refused" | "not-understood",
): NotificationEvent {
  const { id, said, site, traceparent } = row;
  const data = { ...requestData(row), said, outcome, refusal: { code, detail: message }, commands: [] };
  const request = id as RequestId;
  const trace = traceparentFor(request, traceparent, request);
  return { what: "outcome", outcome, site, subject: id, data, traceparent: trace };
}

export function changeNotification(channel: ChannelEntry, { value, cause, at }: Observed): NotificationEvent {
  const { address, name, room, kind } = channel;
  const data = {
    channel: address,
    name,
    room: room.name,
    kind,
    value,
    text: channelWords(channel, value),
    cause,
    at: time(at),
  };
  return { what: "change", site: channel.site.slug, subject: address, data };
}

function time(at: number): string {
  return new Date(at).toISOString();
}
