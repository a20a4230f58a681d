/**
 * Every address of the API, with the right that it takes: the one table of who may do what. Routes are registered
 * through it, so that none can exist without its row; a test walks every role over every row.
 */
import { RelayError, type Right } from "@bold-relay/core";
import { type Request, type Response, Router } from "express";
import type { AuditLog } from "../auth/audit-log.ts";
import { type Admitted, admit, admitMember, type Caller } from "../auth/caller.ts";
import { identify } from "../auth/identify.ts";
import type { Pool } from "../store/pool.ts";

/** `anyone`: no sign-in · `member`: whoever is signed in · else the right, at one site at least. */
export const permissions = {
  "POST /session": "anyone",
  "POST /session/second": "anyone",
  "POST /session/passkey/options": "anyone",
  "POST /session/passkey": "anyone",
  "POST /session/reset": "anyone",
  "GET /account": "member",
  "DELETE /account/sessions/:id": "member",
  "POST /account/app": "member",
  "PUT /account/app": "member",
  "POST /account/app/off": "member",
  "POST /account/passkeys/options": "member",
  "POST /account/passkeys": "member",
  "DELETE /account/passkeys/:id": "member",
  "POST /members/:name/reset": "govern",
  "POST /members/:name/second-factor/off": "govern",
  "GET /team/rules": "govern",
  "PUT /team/rules": "govern",
  "GET /session": "member",
  "DELETE /session": "member",
  "POST /session/password": "member",
  "GET /board": "see",
  "GET /status": "see",
  "GET /live": "see",
  "POST /requests": "switch",
  "POST /requests/rehearse": "switch",
  "GET /requests/:id": "see",
  "GET /requests/:id/trace": "see",
  "GET /requests": "operate",
  "GET /requests.:form": "operate",
  "POST /requests/:id/close": "operate",
  "GET /channels/:site/:device/:channel/day": "see",
  "GET /channels/:site/:device/:channel/history": "see",
  "GET /figures": "operate",
  "GET /figures.csv": "operate",
  "GET /attention": "operate",
  "POST /attention": "operate",
  "POST /lockouts": "operate",
  "POST /lockouts/:id/release": "operate",
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
  "GET /inlets/:slug/links": "build",
  "POST /inlets/:slug/links": "build",
  "DELETE /inlets/:slug/links/:id": "build",
  "POST /inlets/:slug/rehearse": "build",
  "POST /inlets/:slug/past": "build",
  "POST /inlets/:slug/try": "build",
  "GET /notices": "build",
  "PUT /notices/:slug": "build",
  "DELETE /notices/:slug": "build",
  "POST /notices/:slug/secret": "build",
  "GET /notices/:slug/log": "build",
  "POST /phrases": "switch",
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

/** Stands before every route: who calls, and whether they have its right. What they may not do is in the audit log. */
export class Guard {
  private readonly pool: Pool;
  private readonly audit: AuditLog;

  constructor(pool: Pool, audit: AuditLog) {
    this.pool = pool;
    this.audit = audit;
  }

  /** Routes for callers who are signed in and have the right. */
  routes(routes: Routes): Router {
    const router = Router();
    for (const [name, handler] of Object.entries(routes) as [RouteName, Handler][]) {
      const [method, path] = name.split(" ") as [string, string];
      if (permissions[name] === "anyone") throw new Error(`${name} is for anyone: register it by itself.`);
      const verb = method.toLowerCase() as "get" | "post" | "put" | "delete";
      router[verb](path, (req, res) => this.serve(name, handler, req as Request<Record<string, string>>, res));
    }
    return router;
  }

  private async serve(
    name: RouteName,
    handler: Handler,
    req: Request<Record<string, string>>,
    res: Response,
  ): Promise<void> {
    const caller = await identify(this.pool, req);
    try {
      await handler(req, res, admitted(caller, permissions[name]));
    } catch (error) {
      if (error instanceof RelayError && error.code === "not-permitted")
        this.audit.recordRefusal(caller, "refused by right", `${req.method} ${req.path}`.slice(0, 200));
      throw error;
    }
  }
}

function admitted(caller: Caller, right: Right | "anyone" | "member"): Admitted {
  return right === "member" || right === "anyone" ? admitMember(caller) : admit(caller, right);
}
