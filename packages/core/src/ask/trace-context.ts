/**
 * W3C Trace Context: one name for a chain of calls through several systems. A caller's own is kept and handed on; a request
 * that came without one gets the trace of its own id, so that whoever hears a command can always be led back to its request.
 */
import type { CommandId, RequestId } from "../id.ts";

const FORM = /^([0-9a-f]{2})-([0-9a-f]{32})-([0-9a-f]{16})-([0-9a-f]{2})(-.*)?$/;

/**
 * @returns what came, in the form of version 00; null when it is none that may be used (W3C Trace Context, 3.2.2 and 4.3)
 * @example readTraceparent("00-4bf92f3577b34da6a3ce929d0e0e4736-00f067aa0ba902b7-01") // → the same
 */
export function readTraceparent(text: unknown): string | null {
  const found = typeof text === "string" && text.length <= 200 ? FORM.exec(text.trim()) : null;
  const [, version, trace = "", parent = "", flags, more] = found ?? [];
  if (version === undefined || version === "ff" || (version === "00" && more !== undefined)) return null;
  return /^0+$/.test(trace) || /^0+$/.test(parent) ? null : `00-${trace}-${parent}-${flags}`;
}

/** @param traceparent in the form of version 00, as `readTraceparent` returns it */
export function traceIdIn(traceparent: string): string {
  return traceparent.slice(3, 35);
}

/** The trace of a request: its caller's, or its own. 32 hexadecimal digits. */
export function traceIdOf(request: RequestId, came: string | null): string {
  return came === null ? request.replaceAll("-", "") : traceIdIn(came);
}

/**
 * What goes out with a command, or with word of a request: in the same trace, as a step of its own.
 *
 * @param step a command or the request itself; the last half of its id names the step
 */
export function traceparentFor(request: RequestId, came: string | null, step: CommandId | RequestId): string {
  const flags = came === null ? "01" : came.slice(53, 55);
  return `00-${traceIdOf(request, came)}-${step.replaceAll("-", "").slice(16)}-${flags}`;
}
