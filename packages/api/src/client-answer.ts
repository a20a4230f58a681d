/** The problem that a call was answered with (RFC 9457), and the events of a stream. */
import type { IncomingAnswer } from "./calls/transport.ts";
import type { WireEvents } from "./device-view.ts";
import type { ListenEvents } from "./inlet-view.ts";
import type { LiveEvents } from "./live-view.ts";
import type { PanelEvents } from "./panel-view.ts";
import { isProblem, ProblemError, UnreachableError } from "./problem.ts";

export async function problemFrom(answer: IncomingAnswer, baseUrl: string): Promise<Error> {
  const text = await answer.text();
  try {
    const body: unknown = JSON.parse(text);
    if (isProblem(body)) return new ProblemError(body, retryAfter(answer));
  } catch {
    // A page of something in between: said below.
  }
  const location = answer.header("location");
  const answered = `HTTP ${answer.status}${location === null ? "" : `, to ${location}`}`;
  return new UnreachableError(baseUrl, new Error(`${answered}, without problem details`), answered);
}

function retryAfter(answer: IncomingAnswer): number | null {
  const seconds = Number(answer.header("retry-after") ?? Number.NaN);
  return Number.isFinite(seconds) ? seconds : null;
}

export type LiveEvent = {
  [Name in keyof LiveEvents]: { name: Name; data: LiveEvents[Name] };
}[keyof LiveEvents];

export type ListenEvent = {
  [Name in keyof ListenEvents]: { name: Name; data: ListenEvents[Name] };
}[keyof ListenEvents];

export type PanelEvent = {
  [Name in keyof PanelEvents]: { name: Name; data: PanelEvents[Name] };
}[keyof PanelEvents];

export type WireEvent = {
  [Name in keyof WireEvents]: { name: Name; data: WireEvents[Name] };
}[keyof WireEvents];
