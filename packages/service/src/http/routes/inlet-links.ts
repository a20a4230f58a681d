/** Links of an inlet: signed with its secret, for people. Each makes one request. */
import type { LinkRecordView, LinkView } from "@bold-relay/api";
import { linkSchema } from "@bold-relay/api/schema";
import { inletKinds, isUuid, RelayError } from "@bold-relay/core";
import type { Router } from "express";
import { signLink } from "../../auth/signature.ts";
import { readBody } from "../../http-exchange/body.ts";
import { linkArrival } from "../../inlets/link-page.ts";
import { newId } from "../../platform/id.ts";
import { findLinks, type InletLink, revokeLink, saveLink } from "../../store/inlet-links.ts";
import type { HttpDeps } from "../deps.ts";
import { instanceOf } from "./inlet-instances.ts";

const MOST_LINKS = 200;

export function inletLinkRoutes(deps: HttpDeps): Router {
  const { guard, audit, pool, clock } = deps;
  return guard.routes({
    /** The links that count, newest first; never the links themselves. */
    "GET /inlets/:slug/links": async (req, res, caller) => {
      const { record } = instanceOf(deps, req.params.slug, caller);
      res.json((await findLinks(pool, record.inlet.slug, MOST_LINKS)).map(linkRecordView) satisfies LinkRecordView[]);
    },

    /** A link for people, signed with the inlet's secret. What it would do must be clear now. */
    "POST /inlets/:slug/links": async (req, res, caller) => {
      const { record, inlet, handler } = instanceOf(deps, req.params.slug, caller);
      const { phrase, hours = 24 } = await readBody(req, linkSchema);
      const { slug, name, kind } = record.inlet;
      if (inletKinds[kind].proof !== "key or signature")
        throw new RelayError("bad-request", {
          why: `An inlet of the kind ${kind} takes no signatures, so it has no links`,
        });
      if (inlet.secret === null)
        throw new RelayError("bad-request", { why: `${name} has no secret to sign with: make one first` });
      const { understood, reply, refusal } = handler.rehearse(linkArrival(phrase));
      if (refusal) throw refusal;
      if (!("asks" in understood)) throw new RelayError("not-understood", { why: reply, nearest: [] });
      const id = newId();
      const until = Math.floor(clock.now() / 1000 + hours * 3_600);
      const token = signLink({ phrase, until, id }, inlet.secret);
      await guard.change(caller, async (db) => {
        await saveLink(db, slug, caller.memberId, { id, phrase, madeBy: caller.name, until: until * 1000 });
        const after = { phrase, until: new Date(until * 1000).toISOString() };
        await audit.record({ actor: caller, action: "link created", object: slug, after }, db);
      });
      const path = `/in/${slug}/link#${token}`;
      res.status(201).json({ id, path, until: new Date(until * 1000).toISOString() } satisfies LinkView);
    },

    /** Ends one link at once. */
    "DELETE /inlets/:slug/links/:id": async (req, res, caller) => {
      const { slug } = instanceOf(deps, req.params.slug, caller).record.inlet;
      const { id = "" } = req.params;
      await guard.change(caller, async (db) => {
        const phrase = isUuid(id) ? await revokeLink(db, slug, id) : null;
        if (phrase === null) throw new RelayError("not-found", { what: "A link with this id" });
        await audit.record({ actor: caller, action: "link revoked", object: slug, before: { phrase } }, db);
      });
      res.status(204).end();
    },
  });
}

function linkRecordView({ madeAt, until, ...link }: InletLink): LinkRecordView {
  return { ...link, madeAt: new Date(madeAt).toISOString(), until: new Date(until).toISOString() };
}
