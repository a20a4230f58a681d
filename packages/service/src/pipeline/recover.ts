/** After a restart: every command that the journal holds open goes on in its lane, or ends in a stated way. */
import {
  type ChannelId,
  type Command,
  codecs,
  defaultPolicy,
  newCommand,
  type Snapshot,
  transition,
} from "@bold-relay/core";
import type { Clock } from "../clock.ts";
import type { Log } from "../log.ts";
import type { OpenCommandRecord } from "../store/open-commands.ts";
import type { LaneBook } from "./lane-book.ts";
import type { RequestBook } from "./request-book.ts";
import type { Settle } from "./settle.ts";

export interface RecoverParts {
  readonly clock: Clock;
  readonly log: Log;
  readonly snapshot: Snapshot;
  readonly book: RequestBook;
  readonly lanes: LaneBook;
  readonly settle: Settle;
}

export function recover(records: readonly OpenCommandRecord[], parts: RecoverParts): void {
  const { clock, log, snapshot, book, lanes, settle } = parts;
  const byChannel = new Map<ChannelId, Command[]>();
  for (const record of records) {
    book.open({ ...record, id: record.requestId, outcome: null, refusal: null });
    const command = commandOf(record, snapshot);
    book.update(command);
    byChannel.set(command.channel, [...(byChannel.get(command.channel) ?? []), command]);
  }
  for (const [channel, commands] of byChannel) {
    if (snapshot.byId.has(channel)) lanes.restore(channel, commands);
    else for (const command of commands) endRemoved(command);
  }
  if (records.length > 0) log.info({ commands: records.length, lanes: byChannel.size }, "open commands go on");

  /** Its channel was taken out of the site while the service was down. */
  function endRemoved(command: Command): void {
    const { next } = transition({ ...command, maybeSent: true }, { type: "expire" }, clock.now());
    settle.changed(next);
  }
}

function commandOf(record: OpenCommandRecord, snapshot: Snapshot): Command {
  const entry = snapshot.byId.get(record.channelId);
  const { id, requestId, channelId, seq, to, askedAt, progress } = record;
  const payload = entry ? Buffer.from(codecs[entry.profile.codec].encode(id, to)).toString("utf8") : "";
  const wire = { topic: entry?.topics.do ?? "", payload };
  const policy = entry?.policy ?? defaultPolicy;
  const fresh = newCommand({ id, requestId, channel: channelId, seq, to, policy, askedAt, wire }, askedAt);
  return progress ? { ...fresh, ...progress } : fresh;
}
