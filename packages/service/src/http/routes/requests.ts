/** Asking, and looking at what became of it. */
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { LogPage, RehearsedAskView, RequestView, TraceView } from "@bold-relay/api";
import { askSchema, cancelSchema, logQuerySchema } from "@bold-relay/api/schema";
import { isUuid, RelayError, type RequestId } from "@bold-relay/core";
import type { Router } from "express";
import { checked, readBody } from "../../http-exchange/body.ts";
import { intentOf, preferredWaitS, prefersMinimal } from "../../http-exchange/prefer.ts";
import { sendBrief, sendRequest } from "../../http-exchange/send-request.ts";
import { exportLines } from "../../reporting/export.ts";
import { rehearsedAsk } from "../../requests/rehearse.ts";
import type { HttpDeps } from "../deps.ts";

export function requestRoutes(deps: HttpDeps): Router {
  const { guard, streams, ask, askBriefly, close, queries, board, situationOf } = deps;
  return guard.routes({
    "POST /requests": async (req, res, { asker }) => {
      const intent = intentOf(await readBody(req, askSchema), req.headers);
      const { prefer } = req.headers;
      const waitMs = preferredWaitS(prefer) * 1000;
      if (!prefersMinimal(prefer)) return sendRequest(res, await ask(intent, asker, waitMs), intent.until);
      const { brief, there } = await askBriefly(intent, asker, waitMs);
      sendBrief(res, brief, there);
    },

    /** What it would send; nothing is sent, kept or counted. */
    "POST /requests/rehearse": async (req, res, { asker }) => {
      const intent = intentOf(await readBody(req, askSchema), req.headers);
      res.json(rehearsedAsk(intent, asker, { board, situationOf }) satisfies RehearsedAskView);
    },

    "GET /requests": async (req, res, caller) => {
      res.json((await queries.page(checked(logQuerySchema, req.query), caller)) satisfies LogPage);
    },

    /** The same list whole, as a file: CSV (RFC 4180) for a spreadsheet, JSON Lines for a program. */
    "GET /requests.:form": async (req, res, caller) => {
      const form = req.params.form;
      if (form !== "csv" && form !== "jsonl") throw new RelayError("not-found", { what: `An export as “${form}”` });
      const query = checked(logQuerySchema, req.query);
      const over = streams.open("export", caller, () => void res.destroy());
      const lines = exportLines(queries, query, caller, form);
      const first = await lines.next().catch((error: unknown) => {
        over();
        throw error;
      });
      res.setHeader("content-type", form === "csv" ? "text/csv; charset=utf-8" : "application/jsonl; charset=utf-8");
      res.setHeader("content-disposition", `attachment; filename="log.${form}"`);
      await pipeline(Readable.from(beginningWith(first, lines)), res).finally(over);
    },

    "GET /requests/:id": async (req, res, caller) => {
      res.json((await queries.view(existingId(req.params.id), caller)) satisfies RequestView);
    },

    "GET /requests/:id/trace": async (req, res, caller) => {
      res.json((await queries.trace(existingId(req.params.id), caller)) satisfies TraceView);
    },

    /** Ends what is still open of it, by a person's word. */
    "POST /requests/:id/cancel": async (req, res, caller) => {
      const id = existingId(req.params.id);
      const { reason } = await readBody(req, cancelSchema);
      await queries.view(id, caller);
      await guard.confirm(caller);
      await close(id, caller.name, reason);
      res.json((await queries.view(id, caller)) satisfies RequestView);
    },
  });
}

async function* beginningWith(first: IteratorResult<string>, rest: AsyncIterable<string>): AsyncGenerator<string> {
  if (!first.done) yield first.value;
  yield* rest;
}

function existingId(id: string | undefined): RequestId {
  if (id === undefined || !isUuid(id)) throw new RelayError("not-found", { what: "A request with this id" });
  return id as RequestId;
}
