/** What inlets that come in over HTTP share. */
import type { IncomingMessage, ServerResponse } from "node:http";
import type { InletReply } from "@bold-relay/api";
import { RelayError, readTraceparent } from "@bold-relay/core";
import { repeatKeyOf } from "../http-exchange/prefer.ts";
import type { Inlet, InletResult, RequestOrigin } from "./inlet.ts";

/** @throws RelayError wrong-method */
export function requireMethod(req: IncomingMessage, res: ServerResponse, allowed: string): void {
  if (allowed.split(", ").includes(req.method ?? "")) return;
  res.setHeader("allow", allowed);
  throw new RelayError("wrong-method", { allowed });
}

const STATUS: Readonly<Record<string, number>> = {
  open: 202,
  "not-understood": 422,
  refused: 422,
  "unknown-sender": 403,
};

/** Who calls, as far as the headers say; a repeated call is known by its key unless the kind has a better name for it. */
export function callerFrom(
  { headers }: IncomingMessage,
  keyId: number | null,
  waitMs: number,
  repeatKey = repeatKeyOf(headers),
): RequestOrigin {
  return { keyId, repeatKey, waitMs, traceparent: readTraceparent(headers.traceparent) };
}

/** Puts on record whether the answer to a call was taken: once its connection has it, or is gone. */
export function noteAnswer(res: ServerResponse, inlet: Inlet, result: InletResult, said = result.reply): void {
  if (result.made.length === 0) return;
  res.once("close", () => {
    const taken = res.writableFinished;
    inlet.told(result, { how: "answer", said, taken, why: taken ? null : "the caller had gone" });
  });
}

/** 200 once it is known, 202 while it is open, 422 when nothing was done, 403 for who may not ask. */
export function sendHeard(res: ServerResponse, inlet: Inlet, result: InletResult): void {
  const { reply, outcome, requests } = result;
  noteAnswer(res, inlet, result);
  sendJson(res, STATUS[outcome] ?? 200, { reply, outcome, requests: [...requests] } satisfies InletReply);
}

export function sendJson(res: ServerResponse, status: number, value: unknown): void {
  const body = Buffer.from(JSON.stringify(value));
  res.statusCode = status;
  res.setHeader("content-type", "application/json; charset=utf-8");
  res.setHeader("content-length", body.length);
  res.end(body);
}

/** Of a path /in/<slug>/rest: the rest, decoded; "" when there is none. @throws RelayError bad-request */
export function restOf(req: IncomingMessage, slug: string): string {
  const path = (req.url ?? "").split("?")[0] ?? "";
  try {
    return decodeURIComponent(path.slice(`/in/${slug}`.length).replace(/^\/|\/$/g, ""));
  } catch (error) {
    throw new RelayError("bad-request", { why: "The address holds a % that is no character" }, { cause: error });
  }
}
