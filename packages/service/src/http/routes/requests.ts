/** Asking, and looking at what became of it. */
import { Readable } from "node:stream";
import { pipeline } from "node:stream/promises";
import type { DeliveryPage, RequestView, TraceView } from "@bold-relay/api";
import { askSchema, deliveryQuerySchema } from "@bold-relay/api/schema";
import { isUuid, RelayError } from "@bold-relay/core";
import { Router } from "express";
import { identify } from "../../auth/identify.ts";
import { exportLines } from "../../view/export.ts";
import { checked, readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { preferredWaitS, repeatKeyOf } from "../prefer.ts";
import { sendRequest } from "../send-request.ts";

export function requestRoutes({ pool, ask, ledger }: HttpParts): Router {
  const router = Router();

  router.post("/requests", async (req, res) => {
    const { asker } = await identify(pool, req);
    const { target, action, until } = await readBody(req, askSchema);
    const waitMs = preferredWaitS(req.headers.prefer) * 1000;
    sendRequest(
      res,
      await ask({ target, action, until: until ?? null, repeatKey: repeatKeyOf(req.headers) }, asker, waitMs),
      until ?? null,
    );
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

  return router;
}

function existingId(id: string): string {
  if (!isUuid(id)) throw new RelayError("not-found", { what: "A request with this id" });
  return id;
}
