/** The problem that a call was answered with (RFC 9457), and the events of a stream. */
import type { WireEvents } from "./device-view.ts";
import type { LiveEvents } from "./live-view.ts";
import { isProblem, ProblemError, UnreachableError } from "./problem.ts";

export async function problemFrom(response: Response, baseUrl: string): Promise<Error> {
  const text = await response.text();
  try {
    const body: unknown = JSON.parse(text);
    if (isProblem(body)) return new ProblemError(body, retryAfter(response));
  } catch (cause) {
    return new UnreachableError(baseUrl, cause);
  }
  return new UnreachableError(baseUrl, new Error(`HTTP ${response.status} without problem details`));
}

function retryAfter(response: Response): number | null {
  const seconds = Number(response.headers.get("retry-after") ?? Number.NaN);
  return Number.isFinite(seconds) ? seconds : null;
}

export type LiveEvent = {
  [Name in keyof LiveEvents]: { name: Name; data: LiveEvents[Name] };
}[keyof LiveEvents];

export type WireEvent = {
  [Name in keyof WireEvents]: { name: Name; data: WireEvents[Name] };
}[keyof WireEvents];
