/** A request with several commands in one line, the same wherever it is shown. */
import type { CommandView, RequestView } from "./request-view.ts";

/**
 * How many commands reached their target stage.
 *
 * @example reachedText(request) // → "3 of 4"
 */
export function reachedText({ commands }: RequestView): string {
  return `${commands.filter((command) => command.end === "delivered").length} of ${commands.length}`;
}

/** The verdict on a request: that of its command, or of those of several that did not get there. */
export function answerText({ commands, refusal }: RequestView): string {
  if (refusal) return refusal.detail;
  const [only] = commands;
  if (only && commands.length === 1) return `${only.verdict.headline} ${only.verdict.text}`;
  const short = commands.filter((command) => command.end !== "delivered");
  return short.length === 0 ? "All commands were delivered." : short.map(namedHeadline).join(" ");
}

function namedHeadline({ channelName, room, verdict }: CommandView): string {
  return `${channelName}, ${room}: ${verdict.headline}`;
}
