/** The one form in which an accepted request is answered: 200 once it is where the asker wanted it, else 202. */
import type { ServerResponse } from "node:http";
import type { RequestView } from "@bold-relay/api";
import { type Aim, hasReached } from "@bold-relay/core";

/** 200 with the outcome when it is known, else 202 with Location (RFC 9110, 15.3.3). */
export function sendRequest(res: ServerResponse, request: RequestView, until: Aim | null): void {
  const there = until !== null && request.commands.every((command) => hasReached(command.stage, until));
  const body = JSON.stringify(request);
  // As one piece of text the head and the body go out in one write.
  res.writeHead(request.outcome === "open" && !there ? 202 : 200, {
    "content-type": "application/json; charset=utf-8",
    "content-length": Buffer.byteLength(body),
    location: `/api/v1/requests/${request.id}`,
  });
  res.end(body);
}
