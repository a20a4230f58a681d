/**
 * The guard before every route. Who may do what stands in the table of operations (`api/src/schema/operations.ts`). Routes are
 * registered by their names there, so that none can exist without its row; a test walks every role over every row.
 */
import { type Access, accessOf, type OperationName, operationNames } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { type Request, type Response, Router } from "express";
import type { AuditLog } from "../auth/audit-log.ts";
import { type Admitted, admit, admitMember, type Caller } from "../auth/caller.ts";
import { identify } from "../auth/identify.ts";
import type { Pool } from "../store/pool.ts";

export type RouteName = OperationName;

/** By method and path. */
export const permissions = Object.fromEntries(operationNames.map((name) => [name, accessOf(name)])) as Readonly<
  Record<RouteName, Access>
>;

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
      const verb = method.toLowerCase() as "get" | "post" | "put" | "patch" | "delete";
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

function admitted(caller: Caller, right: Access): Admitted {
  return right === "member" || right === "anyone" ? admitMember(caller) : admit(caller, right);
}
