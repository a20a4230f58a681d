/** A request as callers see it, and problems in its words. */
import type { Problem, RequestView } from "@bold-relay/api";
import { type ErrorCode, type ErrorFacts, outcomeOf, RelayError } from "@bold-relay/core";
import type { Board } from "../state/board.ts";
import type { CommandRecord, RequestRecord } from "../store/find-requests.ts";
import { commandView } from "../views/command-view.ts";

export function requestView(record: RequestRecord, commands: readonly CommandRecord[], board: Board): RequestView {
  const { id, askedAt, requester, inlet, asker, target, action, value, forMs, said, traceparent } = record;
  const { outcome, refusal } = record;
  return {
    id,
    at: new Date(askedAt).toISOString(),
    requester,
    inlet,
    asker,
    target,
    action,
    value,
    forMs,
    said,
    traceparent,
    outcome: outcome ?? outcomeOf(commands.map((command) => command.end)),
    refusal: refusal && problemOf(new RelayError(refusal.code as ErrorCode, { ...refusal.facts, request: id })),
    commands: commands.map((command) => commandView(command, board)),
  };
}

/** Problem details (RFC 9457) of an error of the catalogue. */
export function problemOf(error: RelayError): Problem {
  const { code, kind, facts, message } = error;
  const problem: Problem = {
    type: `/errors#${code}`,
    title: kind.title,
    status: kind.status,
    detail: message,
    code,
    retryable: kind.retryable,
  };
  const { request, nearest } = facts as ErrorFacts;
  if (typeof request === "string") problem.request = request;
  if (Array.isArray(nearest)) problem.nearest = [...nearest];
  return problem;
}
