/**
 * Every address of the API, with the right that it takes: the one table of who may do what. Routes are registered
 * through it, so that none can exist without its row; a test walks every role over every row.
 */
import { RelayError, type Right } from "@bold-relay/core";
import { type Request, type Response, Router } from "express";
import { type Admitted, admit, type Caller, identify } from "../auth/identify.ts";
import type { Pool } from "../store/pool.ts";

/** `anyone`: no sign-in · `member`: whoever is signed in · else the right, at one site at least. */
export const permissions = {
  "POST /session": "anyone",
  "GET /session": "member",
  "DELETE /session": "member",
  "POST /session/password": "member",
  "GET /board": "see",
  "GET /status": "see",
  "GET /live": "see",
  "POST /requests": "ask",
  "POST /requests/rehearse": "ask",
  "GET /requests/:id": "see",
  "GET /requests/:id/trace": "see",
  "GET /requests": "hold",
  "GET /requests.:form": "hold",
  "POST /requests/:id/close": "hold",
  "GET /channels/:site/:device/:channel/day": "see",
  "GET /channels/:site/:device/:channel/history": "see",
  "GET /figures": "hold",
  "GET /figures.csv": "hold",
  "GET /attention": "hold",
  "POST /attention": "hold",
  "POST /lockouts": "hold",
  "POST /lockouts/:id/release": "hold",
  "GET /devices": "build",
  "GET /devices/:site/:device/commissioning": "build",
  "POST /devices/:site/:device/commissioning": "build",
  "POST /devices/:site/:device/commissioning/step": "build",
  "POST /devices/:site/:device/identify": "build",
  "POST /devices/:site/:device/credentials": "build",
  "DELETE /devices/:site/:device/credentials": "build",
  "GET /profiles": "build",
  "POST /profiles/try": "build",
  "PUT /profiles/:profile": "build",
  "GET /sites/:site/description": "build",
  "POST /sites/:site/check": "build",
  "PUT /sites/:site/description": "build",
  "GET /wire": "build",
  "POST /wire": "build",
  "GET /inlets": "build",
  "GET /inlets/:slug": "build",
  "PUT /inlets/:slug": "build",
  "DELETE /inlets/:slug": "build",
  "POST /inlets/:slug/secret": "build",
  "POST /inlets/:slug/links": "build",
  "POST /inlets/:slug/rehearse": "build",
  "POST /inlets/:slug/past": "build",
  "POST /inlets/:slug/try": "build",
  "GET /notices": "build",
  "PUT /notices/:slug": "build",
  "DELETE /notices/:slug": "build",
  "POST /notices/:slug/secret": "build",
  "GET /notices/:slug/log": "build",
  "POST /phrases": "ask",
  "GET /keys": "build",
  "POST /keys": "build",
  "DELETE /keys/:id": "build",
  "GET /members": "govern",
  "POST /members": "govern",
  "PUT /members/:name": "govern",
  "DELETE /members/:name": "govern",
  "GET /audit": "govern",
  "GET /openapi.json": "member",
  "GET /metrics": "see",
} as const satisfies Record<string, Right | "anyone" | "member">;

export type RouteName = keyof typeof permissions;

/** Answers a call of an admitted caller. `sites` in it are those at which the caller has the route's right. */
type Handler = (req: Request<Record<string, string>>, res: Response, caller: Admitted) => Promise<void> | void;

export type Routes = Partial<Record<RouteName, Handler>>;

/** Routes for callers who are signed in and have the right. */
export function guardedRouter(pool: Pool, routes: Routes): Router {
  const router = Router();
  for (const [name, handler] of Object.entries(routes) as [RouteName, Handler][]) {
    const [method, path] = name.split(" ") as [string, string];
    const right: Right | "anyone" | "member" = permissions[name];
    if (right === "anyone") throw new Error(`${name} is for anyone: register it by itself.`);
    const verb = method.toLowerCase() as "get" | "post" | "put" | "delete";
    router[verb](path, async (req, res) => {
      const caller = await identify(pool, req);
      const admitted = right === "member" ? withoutSites(caller) : admit(caller, right);
      await handler(req as Request<Record<string, string>>, res, admitted);
    });
  }
  return router;
}

function withoutSites(caller: Caller): Admitted {
  return { ...caller, sites: [], asker: { inlet: "board", name: caller.name, sites: [], keyId: caller.keyId } };
}

/**
 * What is for every site is the whole team's to make.
 *
 * @param what an inlet, a notice
 * @throws RelayError not-permitted
 */
export function requireScope(site: string | null, caller: Admitted, what: string): void {
  if (site !== null) return requireSite(caller, site);
  if (caller.sites !== null)
    throw new RelayError("not-permitted", {
      why: `${caller.name} may not make ${what} for every site: name one of theirs`,
    });
}

/** @throws RelayError not-permitted unless the site is one of theirs */
export function requireSite({ name, sites }: Admitted, site: string): void {
  if (sites === null || sites.includes(site)) return;
  throw new RelayError("not-permitted", { why: `${name} may not do this at ${site}` });
}
