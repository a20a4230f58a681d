/**
 * The life of one command: `transition(command, event, now)` gives the next command and what to do.
 * Long because it is one reducer, a function for each event. Pure: no clock, no I/O. The table of states and events stands in README.md beside this file.
 */
import { agrees, READ, type Value } from "../channel/value.ts";
import { answerWaitMs } from "./backoff.ts";
import { type Command, copyOf, type Hop, type RawMessage, type Reason, wasSent } from "./command.ts";
import type { CommandEvent, Effect, Report, Step } from "./command-event.ts";
import { confirms, isWrittenBlind, whyOlder } from "./confirms.ts";
import { answerHop, withHop } from "./hops.ts";
import { MOST_REMARKS, type Remark } from "./remark.ts";
import { type End, hasReached, higherStage, type Stage } from "./stage.ts";

/**
 * Applies one event. An event that comes after the end, or that proves nothing, changes nothing
 * and has no effects: ends are final, stages only rise.
 *
 * @param now ms since 1970
 */
export function transition(command: Command, event: CommandEvent, now: number): Step {
  if (command.end !== null) return { next: command, effects: [] };
  switch (event.type) {
    case "keep-sending":
      return keepSending(command, now);
    case "sending-kept":
      return { next: sendingKept(command), effects: [] };
    case "send":
      return send(command, event.known, event.wire ?? command.wire, now);
    case "puback":
      return receipt(command, event, now);
    case "done":
      return answered(command, event, now);
    case "report":
      return reported(command, event.report, event.wire, now);
    case "ignore":
      return ignored(command, event.remark, event.wire, now);
    case "already":
      return prove(command, "confirmed", { at: now, kind: "confirmed", already: true }, now);
    case "unchanged":
      return unchangedEnd(command, now);
    case "await-report":
      return changed(awaitReport(command, now));
    case "replace":
      return wasSent(command)
        ? finish(command, "overtaken", "replaced-after-sending", now)
        : finish(command, "replaced", "replaced-before-sending", now);
    case "lost":
      if (command.lostLink) return { next: command, effects: [] };
      return changed(linkLost(command, now));
    case "lock":
      return lock(command, now);
    case "give-up":
      return giveUp(command, now);
    case "expire":
      // "Expired" claims that it never went out; after a restart nobody can say so.
      return wasSent(command)
        ? finish(command, "unanswered", "sending-uncertain", now)
        : finish(command, "expired", "never-sent-in-time", now);
    case "block":
      return finish(command, wasSent(command) ? "unanswered" : "failed", event.reason, now);
    case "insist":
      return changed(toBeSentAgain(command));
    case "close":
      return finish(
        withHop(command, { at: now, kind: "closed", note: event.note }),
        wasSent(command) ? "unanswered" : "failed",
        "closed-by-person",
        now,
      );
  }
}

/**
 * When something is due if nothing more comes, ms since 1970.
 * A command that was never written is due when its time to live passes.
 */
export function dueAt(command: Command): number {
  if (command.watchedFrom !== null) return command.watchedFrom + command.policy.settleMs;
  // An urgent one keeps its pace: it may be tried for days.
  if (command.doubted && !command.urgent && command.sentAt !== null) return command.sentAt;
  if (command.sentAt !== null) return command.sentAt + answerWaitMs(command.policy, command.attempts, command.id);
  return livesUntil(command);
}

/** Whether another write is allowed: attempts are left and its time to live has not passed, or it is urgent. */
export function mayRetry(command: Command, now: number): boolean {
  if (command.held || command.once) return false;
  if (command.urgent) return now < insistsUntil(command);
  return command.attempts < command.policy.attempts && now < livesUntil(command);
}

/** When it is too late to write it for the first time, ms since 1970. */
export function livesUntil(command: Command): number {
  return command.urgent ? insistsUntil(command) : command.askedAt + command.policy.ttlMs;
}

function insistsUntil({ askedAt, insistsMs }: Command): number {
  return insistsMs === null ? Number.POSITIVE_INFINITY : askedAt + insistsMs;
}

function keepSending(command: Command, now: number): Step {
  const next = withHop(command, { at: now, kind: "sending" });
  next.sending = "asked";
  return { next, effects: [{ type: "keep-sending", command: next }] };
}

function sendingKept(command: Command): Command {
  const next = copyOf(command);
  next.sending = "kept";
  return next;
}

function linkLost(command: Command, now: number): Command {
  const next = withHop(command, { at: now, kind: "link-lost" });
  next.lostLink = true;
  return next;
}

function toBeSentAgain(command: Command): Command {
  const next = copyOf(command);
  next.watchedFrom = null;
  next.sentAt = null;
  next.contradiction = null;
  return next;
}

function send(command: Command, known: Value | null, wire: RawMessage, now: number): Step {
  const attempt = command.attempts + 1;
  const asks = command.readsBack && known !== null && agrees(known, command.to, command.accepted);
  const sent = { at: now, kind: "sent", attempt, wire } as const;
  const next = withHop(command, asks ? { ...sent, asked: true } : sent);
  next.attempts = attempt;
  next.sentAt = now;
  next.lostLink = false;
  next.doubted = false;
  const publish: Effect = {
    type: "publish",
    command: next,
    attempt,
    expiryMs: answerWaitMs(next.policy, attempt, next.id),
    asks,
  };
  return { next, effects: [{ type: "changed", command: next }, publish] };
}

function receipt(command: Command, event: Extract<CommandEvent, { type: "puback" }>, now: number): Step {
  const { attempt, code } = event;
  if (code >= 128 || (code === 16 && !command.retained)) {
    // What the device itself proved outweighs what the broker thinks.
    if (hasReached(command.stage, "acknowledged")) return { next: command, effects: [] };
    const refused = withHop(command, { at: now, kind: "refused", attempt, code });
    if (command.urgent) return changed(refused);
    // "Failed" claims that nothing happened; an earlier write may have reached the device.
    const end = command.attempts === 1 && !command.maybeSent ? "failed" : "unanswered";
    return finish(refused, end, code === 16 ? "nobody-listens" : "broker-refused", now);
  }
  if (command.hops.some((hop) => hop.kind === "published" && hop.attempt === attempt))
    return { next: command, effects: [] };
  return prove(command, "published", { at: now, kind: "published", attempt, code }, now);
}

function answered(command: Command, event: Extract<CommandEvent, { type: "done" }>, now: number): Step {
  if (command.watchedFrom !== null) {
    const why = event.ok === true ? "doubled" : "late";
    return ignored(command, { takenFor: "acknowledgement", why }, event.wire, now);
  }
  // No proof either way: it is tried again like one that was not answered at all, but waits no longer.
  if (event.ok === null) {
    const doubted = withHop(command, answerHop("doubted", event, now));
    doubted.doubted = true;
    return changed(doubted);
  }
  if (!event.ok) {
    const refused = withHop(command, answerHop("refused", event, now));
    return command.urgent ? changed(refused) : finish(refused, "failed", "device-refused", now);
  }
  const acknowledged = prove(command, "acknowledged", answerHop("acknowledged", event, now), now);
  const { known } = event;
  // That it stands is not known from where it was.
  const isSame = known !== null && command.to !== "stop" && agrees(known, command.to, command.accepted);
  const alreadySo = command.policy.reports === "onChange" && isSame;
  if (!alreadySo || acknowledged.next.end !== null) return acknowledged;
  return prove(acknowledged.next, "confirmed", { at: now, kind: "confirmed", already: true }, now);
}

function reported(command: Command, report: Report, wire: RawMessage | undefined, now: number): Step {
  const hop = (kind: Hop["kind"]): Hop => (wire ? { at: now, kind, wire } : { at: now, kind });
  if (confirms(command, report, now))
    return prove(command, "confirmed", proofHop(command, report, hop("confirmed")), now);
  if (!wasSent(command)) return { next: command, effects: [] };
  if (!report.live) return ignored(command, { takenFor: "report", why: "retained" }, wire, now);
  const older = whyOlder(command, report);
  if (older !== null) return ignored(command, { takenFor: "report", why: older }, wire, now);
  if (command.to === "stop" && typeof report.value === "number") return stands(command, report.value, now);
  const isSame = agrees(report.value, command.to, command.accepted);
  const contradiction = isSame ? null : report.value;
  if (contradiction === command.contradiction) return isSame ? notByIt(command, report, wire, now) : unchanged(command);
  // A dimmer on its way passes many values: the first tells that it moves, the last is what counts.
  const moving = typeof contradiction === "number" && typeof command.contradiction === "number";
  // What travels is on its way, or has not left yet: only where it is when its time is over counts.
  const isWithEnds = report.measured === true && typeof command.to === "number";
  const travels = isWithEnds || contradiction === "between" || contradiction === "moving";
  const isQuiet = contradiction === null || moving || travels;
  const next = isQuiet ? copyOf(command) : withHop(command, hop("contradicted"));
  next.contradiction = contradiction;
  return changed(next);
}

function proofHop({ to }: Command, { value, measured }: Report, hop: Hop): Hop {
  const seen: Hop = measured ? { ...hop, measured: true } : hop;
  return value === to || to === READ ? seen : { ...seen, value };
}

/** A position of what was commanded to stop: it stands once the same one is reported again a while later. */
function stands(command: Command, value: number, now: number): Step {
  if (command.stood?.value === value) return unchanged(command);
  const next = copyOf(command);
  next.stood = { value, at: now };
  next.contradiction = null;
  return changed(next);
}

/** The channel is as it was commanded, but something else made it so. */
function notByIt(command: Command, { id, by }: Report, wire: RawMessage | undefined, now: number): Step {
  const foreign = id !== null && id !== command.id;
  const other = by !== null && by !== "command";
  if (!foreign && !other) return unchanged(command);
  const remark: Remark = foreign
    ? { takenFor: "report", why: "other-command" }
    : { takenFor: "report", why: "not-commanded", detail: by ?? "" };
  return ignored(command, remark, wire, now);
}

/** Kept in the story, unless the same was said just before; bounded. */
function ignored(command: Command, remark: Remark, wire: RawMessage | undefined, now: number): Step {
  if (!wasSent(command)) return unchanged(command);
  const remarks = command.hops.filter(({ kind }) => kind === "ignored");
  const last = remarks.at(-1);
  if (last?.remark?.why === remark.why && last.wire?.payload === wire?.payload && last.wire?.topic === wire?.topic)
    return unchanged(command);
  const hop: Hop = wire ? { at: now, kind: "ignored", wire, remark } : { at: now, kind: "ignored", remark };
  if (remarks.length < MOST_REMARKS) return changed(withHop(command, hop));
  // The first ones tell how it began, the last one what it says now.
  const dropped = remarks[MOST_REMARKS / 2];
  const next = copyOf(command);
  next.hops = [...command.hops.filter((one) => one !== dropped), hop];
  return changed(next);
}

function unchanged(command: Command): Step {
  return { next: command, effects: [] };
}

function lock(command: Command, now: number): Step {
  if (command.held) return { next: command, effects: [] };
  const locked = withHop(command, { at: now, kind: "locked-out" });
  locked.held = true;
  // What was written cannot be called back: it is only not written again.
  if (command.attempts > 0) return changed(locked);
  return finish(locked, command.maybeSent ? "unanswered" : "failed", "locked-out", now);
}

/** Nothing more can come of it: the device says nothing where nothing changes. What was proven before stays what is claimed. */
function unchangedEnd(command: Command, now: number): Step {
  const next = withHop(command, { at: now, kind: "unchanged" });
  next.hops = [...next.hops, { at: now, kind: "ended" }];
  next.end = "delivered";
  next.endedAt = now;
  return changed(next);
}

function awaitReport(command: Command, now: number): Command {
  const next = copyOf(command);
  next.watchedFrom = command.sentAt ?? now;
  return next;
}

function giveUp(command: Command, now: number): Step {
  if (command.acknowledgedAt === null) {
    if (command.publishedAt === null && !isWrittenBlind(command))
      return finish(command, "unanswered", "no-broker-receipt", now);
    return finish(command, "unanswered", command.to === READ ? "no-report" : "no-acknowledgement", now);
  }
  const { contradiction } = command;
  if (contradiction === null) return finish(command, "unanswered", "no-report", now);
  const isOnItsWay = contradiction === "between" || contradiction === "moving";
  return finish(command, "failed", isOnItsWay ? "not-arrived" : "contradicted", now);
}

function prove(command: Command, stage: Exclude<Stage, "accepted">, hop: Hop, now: number): Step {
  const next = copyOf(command);
  next.stage = higherStage(command.stage, stage);
  if (stage === "published") next.publishedAt ??= now;
  if (stage === "acknowledged") {
    next.acknowledgedAt ??= now;
    next.watchedFrom = now;
  }
  if (stage === "confirmed") next.confirmedAt = now;
  const delivered = hasReached(next.stage, command.policy.targetStage);
  if (delivered) {
    next.end = "delivered";
    next.endedAt = now;
  }
  next.hops = delivered ? [...command.hops, hop, { at: now, kind: "ended" }] : [...command.hops, hop];
  return changed(next);
}

function finish(command: Command, end: End, reason: Reason | null, now: number): Step {
  const next = withHop(command, { at: now, kind: "ended" });
  next.end = end;
  next.reason = reason;
  next.endedAt = now;
  return changed(next);
}

function changed(next: Command): Step {
  return { next, effects: [{ type: "changed", command: next }] };
}
