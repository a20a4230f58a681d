/**
 * What the service claims, against what the askers were answered, what the witness has seen on the wire and what the boards
 * are. No zero rests on the service's own word alone. Pure.
 */
import type { Account, CommandClaim } from "./account.ts";
import type { Answered } from "./askers.ts";
import type { Seen } from "./witness.ts";

/** Everything that is known when it is over. */
export interface History {
  readonly account: Account;
  readonly answered: Answered;
  readonly seen: Seen;
  /** What each channel of a board is by the board itself, by address. */
  readonly boards: ReadonlyMap<string, unknown>;
  /** What the service shows of it; null: unknown. */
  readonly shown: ReadonlyMap<string, unknown>;
  /** What was done without the right, as those saw it who tried. */
  readonly unlawful: readonly string[];
  /** Channels that a pulse closes once for each command. */
  readonly pulses: ReadonlySet<string>;
  /** Channels that go off by themselves, whoever switched them on. */
  readonly autoOff: ReadonlySet<string>;
}

/** The name of each zero, with what stands behind it where it is none. */
export type Zeros = readonly (readonly [name: string, found: readonly string[]])[];

/** How far the witness's clock and the service's may lie apart, with the time that a message takes under load, ms. */
const WITHIN_MS = 3_000;

export function judge(history: History): Zeros {
  return [
    ["accepted requests lost", lostOf(history)],
    ["accepted commands without an end", unendedOf(history)],
    ["sent twice where once was promised", twiceOf(history)],
    ["wrong claims", history.account.commands.flatMap((command) => wrongClaim(command, history.seen) ?? [])],
    ["refusals that are not in the journal", unkeptOf(history)],
    ["deadlines that were not carried out", overdueOf(history)],
    ["channels shown otherwise than they are", misshownOf(history)],
    [
      "things done without the right",
      [...history.unlawful, ...history.seen.foreign.map((topic) => `heard on ${topic}`)],
    ],
  ];
}

/** Answered as accepted, with so many commands: so many there must be, neither fewer nor more. */
function lostOf({ answered, account }: History): string[] {
  const found = new Map<string, number>();
  for (const { request } of [...account.commands, ...account.open]) found.set(request, (found.get(request) ?? 0) + 1);
  return [...answered.accepted]
    .filter(([id, count]) => found.get(id) !== count)
    .map(([id, count]) => `${id}: ${found.get(id) ?? 0} of ${count} commands`);
}

/** Still open, or seen on the wire or at a board and ended nowhere. */
function unendedOf({ account, seen }: History): string[] {
  const ended = new Set(account.commands.map(({ id }) => id));
  const forgotten = new Set(
    [...seen.written.keys(), ...seen.heard.keys(), ...seen.switched].filter((id) => !ended.has(id)),
  );
  return [...new Set([...account.open.map(({ id }) => id), ...forgotten])];
}

/** A board that does a thing twice by its own fault has heard it once. */
function twiceOf({ seen, pulses }: History): string[] {
  return [...seen.written].flatMap(([id, { channel, times }]) => {
    const heard = seen.heard.get(id) ?? 0;
    const isTwice = pulses.has(channel) && Math.max(times, heard) > 1;
    return isTwice ? `${id}: written ${times} times, heard ${heard} times` : [];
  });
}

/** Claimed what no board has done, or claimed never to have gone out what was seen. */
function wrongClaim(command: CommandClaim, seen: Seen): string | null {
  const { id, stage, ended, reason } = command;
  const { switched, refused, written, heard } = seen;
  const story = `${id}: ${ended}${reason === null ? "" : `, ${reason}`}, ${stage}`;
  if (stage === "confirmed" && !isProven(command, seen)) return `${story}, and no board has switched for it`;
  if (["replaced", "expired"].includes(ended) && (written.has(id) || heard.has(id)))
    return `${story}, and it was seen on the wire`;
  if (reason === "device-refused" && !refused.has(id)) return `${story}, and no board has refused it`;
  // "Unanswered" claims nothing: an earlier attempt may have been heard before nobody listened any more.
  if (ended === "failed" && reason === "nobody-listens" && switched.has(id))
    return `${story}, and a board has switched for it`;
  return null;
}

/**
 * A report that names no command proves what the channel is, not what made it so: then it must have been so, at a moment after the command
 * was written. A link that was down gets what was said meanwhile when it is back.
 */
function isProven({ id, proof, channel, to, confirmedAt, sentAt }: CommandClaim, { switched, reports }: Seen): boolean {
  if (switched.has(id)) return true;
  if (proof === null || proof.includes(id) || confirmedAt === null) return false;
  const from = Math.min(sentAt ?? confirmedAt, confirmedAt - WITHIN_MS);
  const near = (reports.get(channel) ?? []).filter(({ at }) => at >= from && at < confirmedAt + WITHIN_MS);
  return near.some((one) => one.to === to);
}

function unkeptOf({ answered, account }: History): string[] {
  return [...answered.refused.keys()].filter((id) => (account.outcomes.get(id) ?? null) === null);
}

/** Boards that are on though something promised that they would not stay so. */
function overdueOf({ boards, autoOff, seen, answered, account }: History): string[] {
  const requestOf = new Map(account.commands.map(({ id, request }) => [id, request]));
  return [...boards].flatMap(([channel, is]) => {
    if (is !== "on") return [];
    if (autoOff.has(channel)) return `${channel} is still on, and should have gone off by itself`;
    const last = seen.lastWritten.get(channel);
    const timed = last !== undefined && answered.timed.has(requestOf.get(last) ?? "");
    return timed ? `${channel} is still on, and was asked for a time only (command ${last})` : [];
  });
}

function misshownOf({ boards, shown }: History): string[] {
  return [...boards]
    .filter(([channel, is]) => (shown.get(channel) ?? null) !== is)
    .map(([channel, is]) => `${channel} is ${is}, shown as ${shown.get(channel) ?? "unknown"}`);
}
