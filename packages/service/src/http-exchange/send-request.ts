/** The form in which an accepted request is answered: 200 once it is where the asker wanted it, else 202. */
import type { ServerResponse } from "node:http";
import type { BriefView, RequestView } from "@bold-relay/api";
import { hasReached, type TargetStage } from "@bold-relay/core";

/** 200 with the outcome when it is known, else 202 with Location (RFC 9110, 15.3.3). */
export function sendRequest(res: ServerResponse, request: RequestView, until: TargetStage | null): void {
  const there = until !== null && request.commands.every((command) => hasReached(command.stage, until));
  send(res, request, there, {});
}

/** The same for who prefers `return=minimal`. */
export function sendBrief(res: ServerResponse, { id, outcome }: BriefView, there: boolean): void {
  send(res, { id, outcome } satisfies BriefView, there, { "preference-applied": "return=minimal" });
}

function send(res: ServerResponse, answer: BriefView, there: boolean, more: Record<string, string>): void {
  const body = JSON.stringify(answer);
  // As one piece of text the head and the body go out in one write.
  res.writeHead(answer.outcome === "open" && !there ? 202 : 200, {
    "content-type": "application/json; charset=utf-8",
    "content-length": Buffer.byteLength(body),
    location: `/api/v1/requests/${answer.id}`,
    ...more,
  });
  res.end(body);
}
