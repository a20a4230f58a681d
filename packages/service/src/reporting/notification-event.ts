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
import type { AcceptRow } from "../store/accept-requests.ts";
import type { RequestRecord } from "../store/find-requests.ts";

export function outcomeNotification(
  { id, requester, inlet, asker, target, action, value, askedAt, traceparent }: RequestRecord,
  outcome: Outcome,
  commands: readonly Command[],
  board: Board,
): NotificationEvent {
  const entries = commands.map((command) => ({ command, entry: board.snapshot.byId.get(command.channel) }));
  const site = entries.find(({ entry }) => entry)?.entry?.site.slug ?? null;
  const told = entries.map(({ command: { to, stage, end, reason }, entry }) => {
    return { channel: entry?.address ?? null, to, stage, end, reason };
  });
  const data = {
    request: id,
    requester,
    inlet,
    asker,
    target,
    action,
    value,
    askedAt: time(askedAt),
    outcome,
    commands: told,
  };
  return { what: "outcome", outcome, site, subject: id, data, traceparent: traceparentFor(id, traceparent, id) };
}

/** @param outcome refused or notUnderstood: nothing was sent */
export function refusedNotification(
  { id, requester, inlet, asker, target, action, value, askedAt, said, site, traceparent }: AcceptRow,
  { code, message }: RelayError,
  outcome: "refused" | "not-understood",
): NotificationEvent {
  const why = { code, detail: message };
  const data = {
    request: id,
    requester,
    inlet,
    asker,
    target,
    action,
    value,
    said,
    askedAt: time(askedAt),
    outcome,
    refusal: why,
    commands: [],
  };
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
