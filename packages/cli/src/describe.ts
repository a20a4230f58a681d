/** Commands and channels in words and marks, the same in every command. */
import type { ChannelView, CommandView, RequestView } from "@bold-relay/api";
import {
  causeWords,
  formatAgo,
  formatDuration,
  normalName,
  requesterText,
  staleWords,
  timeForms,
  trackText,
} from "@bold-relay/core";
import { EXIT, type ExitCode } from "./exit.ts";
import { bold, faint, lit, wrong } from "./output.ts";

/** "●──●──●──●  14 ms" */
export function trackWithTime(command: CommandView): string {
  const { end, after } = command;
  const track = trackText(command);
  if (end === null) return `${track}  ${faint("open")}`;
  if (end === "delivered") return `${track}  ${after.ended === null ? "" : formatDuration(after.ended)}`.trimEnd();
  return `${track}  ${end === "replaced" || end === "overtaken" ? faint(end) : wrong(end)}`;
}

export function verdictText({ verdict }: CommandView): string {
  const headline = verdict.severity === "bad" ? wrong(bold(verdict.headline)) : bold(verdict.headline);
  return `${headline} ${verdict.text}`;
}

/** Everything that a channel may be called, in the form in which names are compared. */
export function channelNames({ address, name, room }: ChannelView): string[] {
  const short = address.split("/").slice(1).join("/");
  return [address, short, name, `${name} ${room.name}`, `${room.name} ${name}`].map(normalName);
}

/** What the device last said, never what was only sent; with what changed it, where that was no command of ours. */
export function isText({ observed, commanded }: ChannelView, now: number): string {
  if (observed === null) return faint("unknown");
  if (observed.stale !== null) {
    const ago = observed.asOf === null ? null : formatAgo(now - Date.parse(observed.asOf));
    return faint(`${observed.text} (${staleWords(observed.stale, ago)})`);
  }
  const isLater = commanded === null || Date.parse(observed.at) > Date.parse(commanded.at);
  const cause = isLater ? causeWords(observed.cause) : null;
  const by = cause === null ? "" : faint(`, ${cause}`);
  return `${observed.on ? lit(observed.text) : observed.text}${by}`;
}

/** What it was told, where that is not what it is. */
export function toldText({ agreement, commanded, observed, lockout }: ChannelView): string {
  if (lockout) return wrong(`locked out by ${lockout.holder}`);
  if (commanded === null || commanded.value === observed?.value) return "";
  if (agreement === "agreed") return "";
  const told = `commanded ${commanded.text}`;
  return agreement === "drift" && !(observed && causeWords(observed.cause)) ? wrong(told) : told;
}

/** Who requested the last command, and when. */
export function byText({ commanded }: ChannelView, now: number): string {
  return commanded ? `${requestedBy(commanded)}, ${formatAgo(now - Date.parse(commanded.at))}` : "";
}

/** Who asked, in words; what only an inlet claims stands in quotation marks. */
export function requestedBy({ requester, asker, inlet }: Pick<RequestView, "requester" | "asker" | "inlet">): string {
  return requesterText(requester, asker, inlet);
}

/** The exit code that tells what became of a request. */
export function exitCodeOf(request: Pick<RequestView, "outcome">): ExitCode {
  return request.outcome === "delivered" ? EXIT.reached : EXIT.notReached;
}

/** Moments in the form of the reader of this terminal. */
export const when = timeForms(Date.now);
