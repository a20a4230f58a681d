/** Asking, and looking at what became of it. */
import type { RequestView, TraceView } from "@bold-relay/api";
import { askSchema, requestQuerySchema } from "@bold-relay/api/schema";
import { isUuid, RelayError, resolveName } from "@bold-relay/core";
import { Router } from "express";
import { identify } from "../../auth/identify.ts";
import { findNewestRequests, findRequestsOfChannel } from "../../store/find-requests.ts";
import { checked, readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { preferredWaitS } from "../prefer.ts";
import { sendRequest } from "../send-request.ts";

const DEFAULT_LIMIT = 20;

export function requestRoutes({ pool, board, ask, ledger }: HttpParts): Router {
  const router = Router();

  router.post("/requests", async (req, res) => {
    const { asker } = await identify(pool, req);
    const { target, action, until } = await readBody(req, askSchema);
    const waitMs = preferredWaitS(req.headers.prefer) * 1000;
    sendRequest(res, await ask({ target, action, until: until ?? null }, asker, waitMs), until ?? null);
  });

  router.get("/requests", async (req, res) => {
    await identify(pool, req);
    const { limit = DEFAULT_LIMIT, channel } = checked(requestQuerySchema, req.query);
    if (channel === undefined) {
      res.json((await ledger.views(await findNewestRequests(pool, limit))) satisfies RequestView[]);
      return;
    }
    const resolution = resolveName(board.snapshot, channel, null);
    if (!("found" in resolution)) throw new RelayError("not-found", { what: `Channel “${channel}”` });
    res.json(
      (await ledger.views(await findRequestsOfChannel(pool, resolution.found.id, limit))) satisfies RequestView[],
    );
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
