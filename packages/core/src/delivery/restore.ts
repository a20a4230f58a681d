/** A lane after a restart, made from what the journal holds open. */
import type { ChannelId } from "../id.ts";
import { type Command, copyOf } from "./command.ts";
import type { CommandEvent, Effect } from "./command-event.ts";
import { emptyLane, type LaneStep, type Moment, type Place, type Slot } from "./lane.ts";
import { expectAck, type PendingAck } from "./pending-ack.ts";
import { transition } from "./transition.ts";

/**
 * Puts the open commands found in the journal after a restart back into their lane.
 *
 * Only the newest of a channel can still be sent: older ones end, and since nobody can say whether they were
 * written before the stop, they end overtaken. One that was acknowledged is only watched further:
 * sending it again could undo what a hand did meanwhile. One that may be written only once ends unanswered if the
 * journal has that it was about to be written; if not, it surely was not, and has its turn.
 *
 * @param open the journal's open commands of this lane's channels, with what is on record of each
 */
export function restore(id: ChannelId, open: readonly Command[], moment: Moment): LaneStep {
  const { now } = moment;
  const effects: Effect[] = [];
  const slots: Slot[] = [];
  const pendingAcks: PendingAck[] = [];
  for (const command of open) {
    const marked = marksOfRestart(command, now);
    const isNewest = open.every((other) => other.channel !== command.channel || other.seq <= command.seq);
    if (!isNewest || (command.once && command.sending !== null)) {
      const event: CommandEvent = isNewest ? { type: "expire" } : { type: "replace" };
      effects.push(...transition(marked, event, now).effects);
      continue;
    }
    const place = placeAfterRestart(marked);
    // Its attempts are used up: it is not written again, only its answer is waited for once more.
    const restored = copyOf(marked);
    if (place === "flight") restored.sentAt = now;
    if (marked.anonymous && marked.attempts > 0) pendingAcks.push(expectAck(restored, now));
    slots.push({ place, command: restored });
    effects.push({ type: "changed", command: restored });
  }
  return { lane: { ...emptyLane(id), slots, pendingAcks }, effects };
}

function marksOfRestart(command: Command, now: number): Command {
  const marked = copyOf(command);
  // Of one that is written only once the journal knows before it is: nothing on record means nothing written.
  marked.maybeSent = !command.once || command.sending !== null;
  marked.sentAt = null;
  marked.watchedFrom = command.watchedFrom === null ? null : now;
  marked.hops = [...command.hops, { at: now, kind: "recovered" }];
  return marked;
}

function placeAfterRestart(command: Command): Place {
  if (command.watchedFrom !== null) return "watched";
  return !command.urgent && command.attempts >= command.policy.attempts ? "flight" : "waiting";
}
