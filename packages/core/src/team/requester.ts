/**
 * Who asks. A member who has shown who they are, an inlet with the sender that it claims, or a rule of ours. A sender may call
 * itself like a member, and is never taken for one.
 */

export const REQUESTER_KINDS = ["member", "inlet", "rule"] as const;
export type RequesterKind = (typeof REQUESTER_KINDS)[number];

/** Ways in that are no inlet of the team's: members' own, and the names of our rules. No inlet may be called so. */
const RESERVED = [
  "admin",
  "api",
  "auto-off",
  "board",
  "bold-relay",
  "cli",
  "command-line",
  "commissioning",
  "console",
  "end-of-hold",
  "interlock",
  "link",
  "member",
  "members",
  "power-up",
  "rule",
  "service",
  "set-up",
  "system",
  "timed-off",
  "wire",
] as const;

/** Whether an inlet may not have this identifier, because it would look like a member or like the service itself. */
export function isReservedIdentifier(slug: string): boolean {
  return (RESERVED as readonly string[]).includes(slug);
}

/**
 * A requester in words. What an inlet claims stands in quotation marks: nothing proves it.
 *
 * @param inlet the way in: an inlet's identifier, `board`, `command line` or `API` of a member, or the name of a rule
 * @example requesterText("member", "Ines", "board") // → "Ines"
 * @example requesterText("inlet", "Ines", "porch-chat") // → "“Ines” at porch-chat"
 * @example requesterText("rule", "Bold Relay", "auto-off") // → "rule auto-off"
 */
export function requesterText(kind: RequesterKind, name: string, inlet: string): string {
  if (kind === "member") return name;
  return kind === "rule" ? `rule ${inlet}` : `“${name}” at ${inlet}`;
}
