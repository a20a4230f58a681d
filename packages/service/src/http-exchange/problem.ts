/** Errors become answers here and nowhere else. */
import type { ServerResponse } from "node:http";
import { PROBLEM_TYPE } from "@bold-relay/api";
import { RelayError } from "@bold-relay/core";
import type { ErrorRequestHandler } from "express";
import { newId } from "../platform/id.ts";
import type { Log } from "../platform/log.ts";
import { databaseTrouble, isDatabaseError, isRowsFault } from "../store/database-trouble.ts";
import { isLeaseLost } from "../store/leases.ts";
import { problemOf } from "../views/request-view.ts";

const RETRY_AFTER_S = 2;

/** Sends problem details (RFC 9457); where trying again may help, with Retry-After (RFC 9110, 10.2.3). */
export function sendProblem(res: ServerResponse, error: RelayError): void {
  if (res.headersSent) {
    res.destroy();
    return;
  }
  const body = Buffer.from(JSON.stringify(problemOf(error)));
  res.statusCode = error.kind.status;
  res.setHeader("content-type", PROBLEM_TYPE);
  res.setHeader("content-length", body.length);
  if (error.kind.retryable && !res.hasHeader("retry-after")) res.setHeader("retry-after", RETRY_AFTER_S);
  if (error.kind.status === 401) res.setHeader("www-authenticate", "Bearer");
  if (error.code === "body-too-large" || error.code === "body-too-slow") res.setHeader("connection", "close");
  res.end(body);
}

/** Anything that is not of the catalogue is our mistake: logged with a reference, told without details. */
export function asRelayError(error: unknown, log: Log): RelayError {
  if (error instanceof RelayError) return error;
  if (isLeaseLost(error))
    return new RelayError("service-busy", { why: "Another instance has just taken over" }, { cause: error });
  if (isDatabaseError(error) && !isRowsFault(error)) {
    log.warn({ err: error }, `the database could not be used: ${databaseTrouble(error)}`);
    return new RelayError("service-busy", { why: "The database cannot be used just now" }, { cause: error });
  }
  const reference = newId();
  log.error({ err: error, reference }, "unexpected error");
  return new RelayError("internal", { reference }, { cause: error });
}

export function problemHandler(log: Log): ErrorRequestHandler {
  return (error, _req, res, next) => {
    if (res.headersSent) return next(error);
    sendProblem(res, asRelayError(error, log));
  };
}
