/** Asking, and looking at what became of it. */
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { DeliveryPage, RequestView, TraceView } from "@bold-relay/api";
import { askSchema, closeSchema, deliveryQuerySchema } from "@bold-relay/api/schema";
import { isUuid, RelayError, type RequestId } from "@bold-relay/core";
import { Router } from "express";
import { identify } from "../../auth/identify.ts";
import { exportLines } from "../../view/export.ts";
import { checked, readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { intentOf, preferredWaitS, repeatKeyOf } from "../prefer.ts";
import { sendRequest } from "../send-request.ts";

export function requestRoutes({ pool, ask, close, ledger }: HttpParts): Router {
  const router = Router();

  router.post("/requests", async (req, res) => {
    const { asker } = await identify(pool, req);
    const intent = intentOf(await readBody(req, askSchema), repeatKeyOf(req.headers));
    const waitMs = preferredWaitS(req.headers.prefer) * 1000;
    sendRequest(res, await ask(intent, asker, waitMs), intent.until);
  });

  router.get("/requests", async (req, res) => {
    await identify(pool, req);
    res.json((await ledger.page(checked(deliveryQuerySchema, req.query))) satisfies DeliveryPage);
  });

  /** The same list whole, as a file: CSV (RFC 4180) for a spreadsheet, JSON Lines for a program. */
  router.get("/requests.:form", async (req, res) => {
    await identify(pool, req);
    const form = req.params.form;
    if (form !== "csv" && form !== "jsonl") throw new RelayError("not-found", { what: `An export as “${form}”` });
    const query = checked(deliveryQuerySchema, req.query);
    res.setHeader("content-type", form === "csv" ? "text/csv; charset=utf-8" : "application/jsonl; charset=utf-8");
    res.setHeader("content-disposition", `attachment; filename="deliveries.${form}"`);
    await pipeline(Readable.from(exportLines(ledger, query, form)), res);
  });

  router.get("/requests/:id", async (req, res) => {
    await identify(pool, req);
    res.json((await ledger.view(existingId(req.params.id))) satisfies RequestView);
  });

  router.get("/requests/:id/trace", async (req, res) => {
    await identify(pool, req);
    res.json((await ledger.trace(existingId(req.params.id))) satisfies TraceView);
  });

  /** Ends what is still open of it, by a person's word. */
  router.post("/requests/:id/close", async (req, res) => {
    const { name } = await identify(pool, req);
    const id = existingId(req.params.id);
    const { reason } = await readBody(req, closeSchema);
    await close(id, name, reason);
    res.json((await ledger.view(id)) satisfies RequestView);
  });

  return router;
}

function existingId(id: string): RequestId {
  if (!isUuid(id)) throw new RelayError("not-found", { what: "A request with this id" });
  return id as RequestId;
}
