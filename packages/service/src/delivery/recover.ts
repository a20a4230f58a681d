/** After a restart: every command that the journal holds open goes on in its lane, or ends in a stated way. */
import {
  type ChannelId,
  type Command,
  commandOrder,
  copyOf,
  defaultPolicy,
  newCommand,
  type Snapshot,
  transition,
} from "@bold-relay/core";
import type { CommandRecorder } from "../delivery/command-recorder.ts";
import type { LaneRunner } from "../delivery/lane-runner.ts";
import type { Clock } from "../platform/clock.ts";
import type { Log } from "../platform/log.ts";
import type { OpenRequests } from "../state/open-requests.ts";
import type { OpenCommandRecord } from "../store/open-commands.ts";

export interface RecoverDeps {
  readonly clock: Clock;
  readonly log: Log;
  readonly snapshot: Snapshot;
  readonly openRequests: OpenRequests;
  readonly lanes: LaneRunner;
  readonly recorder: CommandRecorder;
  /** The database is a restored backup: nobody knows what happened since, so nothing is sent. */
  readonly restored: boolean;
}

export function recover(records: readonly OpenCommandRecord[], deps: RecoverDeps): void {
  const { clock, log, snapshot, openRequests, lanes, recorder, restored } = deps;
  const byLane = new Map<ChannelId, Command[]>();
  const commands = records.map((record) => {
    const { requestId, askedForMs } = record;
    openRequests.open({ ...record, id: requestId, forMs: askedForMs, outcome: null, refusal: null, site: null });
    // A clock that was set back meanwhile must not make it live longer than it was ever meant to.
    const askedAt = Math.min(record.askedAt, clock.now());
    const command = commandOf({ ...record, askedAt }, snapshot);
    openRequests.update(command);
    return { command, blocked: record.blocked };
  });
  for (const { command, blocked } of commands) {
    const entry = snapshot.byId.get(command.channel);
    if (blocked) lanes.refuse(command, blocked);
    else if (restored) lanes.refuse({ ...command, maybeSent: true }, "restored");
    else if (!entry) endRemoved(command);
    else byLane.set(entry.lane, [...(byLane.get(entry.lane) ?? []), command]);
  }
  for (const [lane, open] of byLane) lanes.restore(lane, open);
  if (records.length > 0) log.info({ commands: records.length, lanes: byLane.size }, "open commands go on");

  /** Its channel was taken out of the site while the service was down. */
  function endRemoved(command: Command): void {
    const { next } = transition({ ...command, maybeSent: true, urgent: false }, { type: "expire" }, clock.now());
    recorder.changed(next);
  }
}

function commandOf(record: OpenCommandRecord, snapshot: Snapshot): Command {
  const entry = snapshot.byId.get(record.channelId);
  const { requestId, seq, askedAt, progress, requester } = record;
  const place = { requestId, seq, askedAt, byRule: requester === "rule" };
  const order = entry ? commandOrder(entry, record.id, record, place, null) : { ...removedTerms(record), ...place };
  const fresh = newCommand(order, askedAt);
  return progress ? copyOf({ ...fresh, ...progress }) : fresh;
}

/** Of a channel that is in no site any more only what the journal has is known. */
function removedTerms({ id, channelId, to, urgent, forMs, clearWithinMs }: OpenCommandRecord) {
  const nothing = {
    policy: defaultPolicy,
    once: false,
    anonymous: false,
    readsBack: false,
    silentIfSame: false,
    reportOnly: false,
    retained: false,
    insistsMs: null,
    accepted: null,
    drive: "set",
    writes: to,
  } as const;
  return { id, channel: channelId, to, urgent, forMs, clearWithinMs, wire: { topic: "", payload: "" }, ...nothing };
}
