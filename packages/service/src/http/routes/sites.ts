/** Sites: their descriptions as a whole and part by part, checked, compared and taken on. */
import type { SiteDescriptionView, SitePlanView } from "@bold-relay/api";
import { partSchema, patchSchema, previewQuerySchema } from "@bold-relay/api/schema";
import { RelayError, SITE_PARTS, type SiteEdit, type SitePart } from "@bold-relay/core";
import type { Request, Response, Router } from "express";
import { type Admitted, requireSite, requireTeam } from "../../auth/caller.ts";
import { readBody, readText, requireJson } from "../../http-exchange/body.ts";
import { versionOf } from "../../http-exchange/version.ts";
import type { SitePlan, SiteSource } from "../../model/check-site.ts";
import { limits } from "../../platform/config/limits.ts";
import { findSite } from "../../store/model.ts";
import { findSiteList } from "../../store/site-list.ts";
import type { HttpDeps } from "../deps.ts";

type Call = Request<Record<string, string>>;

export function siteRoutes({
  guard,
  pool,
  modelReload,
  credentials,
}: Pick<HttpDeps, "guard" | "pool" | "modelReload" | "credentials">): Router {
  return guard.routes({
    /** The site with everything in it. Inlets and notifications of the site have to go first. */
    "DELETE /sites/:site": async (req, res, caller) => {
      const slug = req.params.site ?? "";
      requireSite(caller, slug);
      requireTeam(caller, "delete a site");
      await modelReload.deleteSite(slug, versionOf(req), caller);
      await credentials.refresh();
      res.status(204).end();
    },

    "GET /sites": async (_req, res, { sites }) => {
      res.json(await findSiteList(pool, sites));
    },

    "GET /sites/:site/description": async (req, res, caller) => {
      const slug = req.params.site ?? "";
      requireSite(caller, slug);
      const found = await findSite(pool, slug);
      if (!found) throw new RelayError("not-found", { what: `The site ${slug}` });
      res.setHeader("etag", `"${found.version}"`);
      res.json(found satisfies SiteDescriptionView);
    },

    "POST /sites/:site/check": async (req, res, caller) => {
      const { slug, source } = await describedSite(req, caller);
      res.json(planView(await modelReload.plan(slug, source, caller)));
    },

    "PUT /sites/:site/description": async (req, res, caller) => {
      const { slug, source } = await describedSite(req, caller);
      await save(slug, source, req, res, caller);
    },

    "PATCH /sites/:site": (req, res, caller) =>
      change(req, res, caller, async () => ({ edit: "site", fields: await readBody(req, patchSchema, BOUNDS) })),
    "PUT /sites/:site/:part/:name": (req, res, caller) =>
      change(req, res, caller, async () => ({ edit: "put", ...partOf(req), fields: await readFields(req) })),
    "PATCH /sites/:site/:part/:name": (req, res, caller) =>
      change(req, res, caller, async () => ({ edit: "patch", ...partOf(req), fields: await readPatch(req) })),
    "DELETE /sites/:site/:part/:name": (req, res, caller) =>
      change(req, res, caller, () => ({ edit: "delete", ...partOf(req) })),
    "PUT /sites/:site/channels/:device/:channel": (req, res, caller) =>
      change(req, res, caller, async () => ({ edit: "put", ...channelOf(req), fields: await readFields(req) })),
    "PATCH /sites/:site/channels/:device/:channel": (req, res, caller) =>
      change(req, res, caller, async () => ({ edit: "patch", ...channelOf(req), fields: await readPatch(req) })),
    "DELETE /sites/:site/channels/:device/:channel": (req, res, caller) =>
      change(req, res, caller, () => ({ edit: "delete", ...channelOf(req) })),
  });

  /** One part of a site changes; with `preview=true` it is only shown what would. */
  async function change(
    req: Call,
    res: Response,
    caller: Admitted,
    read: () => SiteEdit | Promise<SiteEdit>,
  ): Promise<void> {
    const slug = req.params.site ?? "";
    requireSite(caller, slug);
    const { value, error } = previewQuerySchema.validate(req.query);
    if (error) throw new RelayError("bad-request", { why: error.message });
    const source = { edit: await read() };
    if (value.preview) res.json(planView(await modelReload.plan(slug, source, caller)));
    else await save(slug, source, req, res, caller);
  }

  async function save(slug: string, source: SiteSource, req: Call, res: Response, caller: Admitted): Promise<void> {
    const plan = await modelReload.saveSite(slug, source, versionOf(req), caller);
    await credentials.refresh();
    res.setHeader("etag", `"${plan.version}"`);
    res.json(planView(plan));
  }
}

const BOUNDS = { bytes: limits.inletBytes, withinMs: limits.siteWithinMs };

const readFields = (req: Call) => readBody(req, partSchema, BOUNDS);
const readPatch = (req: Call) => readBody(req, patchSchema, BOUNDS);

/** @throws RelayError not-found */
function partOf({ params: { part = "", name = "" } }: Call): { part: SitePart; name: string } {
  const known = SITE_PARTS.find((one) => one === part);
  if (known === undefined || known === "channels")
    throw new RelayError("not-found", {
      what: `A part called ${part}. The parts are rooms, devices, groups, scenes, interlocks and channels/<device>, and it`,
    });
  return { part: known, name };
}

function channelOf({ params: { device = "", channel = "" } }: Call): { part: "channels"; name: string } {
  return { part: "channels", name: `${device}/${channel}` };
}

/** Only the text: a big one is read where it holds nobody up. */
async function describedSite(
  req: Call,
  caller: Admitted,
): Promise<{ readonly slug: string; readonly source: SiteSource }> {
  const slug = req.params.site ?? "";
  // Whoever builds at some sites may change those, not make others.
  requireSite(caller, slug);
  requireJson(req);
  return { slug, source: { text: await readText(req, { bytes: limits.siteBytes, withinMs: limits.siteWithinMs }) } };
}

function planView({ version, changes, findings, reach }: SitePlan): SitePlanView {
  return { version, changes: [...changes], findings: [...findings], reach: [...reach] };
}
