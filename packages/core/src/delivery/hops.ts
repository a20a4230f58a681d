/** The story of a command, hop by hop, within bounds. */

import { type Command, type CommandDraft, copyOf, type Hop } from "./command.ts";
import type { CommandEvent } from "./command-event.ts";

/** A copy of the command with one hop more. */
export function withHop(command: Command, hop: Hop): CommandDraft {
  const next = copyOf(command);
  const { hops } = command;
  next.hops =
    hops.length < MOST_HOPS ? [...hops, hop] : [...hops.slice(0, FIRST_HOPS), ...hops.slice(FIRST_HOPS + 2), hop];
  return next;
}
/** One that is insisted on may be tried for days: of a long story the beginning and the end are kept. */
const MOST_HOPS = 80;

const FIRST_HOPS = 30;

export function answerHop(kind: Hop["kind"], event: Extract<CommandEvent, { type: "done" }>, now: number): Hop {
  const { code, wire, why } = event;
  const hop: {
    -readonly [Field in keyof Hop]: Hop[Field];
  } = { at: now, kind };
  if (code !== null) hop.code = code;
  if (wire) hop.wire = wire;
  if (why !== undefined) hop.note = why;
  return hop;
}
