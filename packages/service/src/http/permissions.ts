/**
 * The guard before every route. Who may do what stands in the table of operations (`api/src/schema/operations.ts`). Routes are
 * registered by their names there, so that none can exist without its row; a test walks every role over every row.
 */
import { type Access, accessOf, type OperationName, operationNames, recentSignInOf } from "@bold-relay/api/schema";
import { type AuditAction, type ErrorCode, RelayError } from "@bold-relay/core";
import { type Request, type Response, Router } from "express";
import type { AuditLog } from "../auth/audit-log.ts";
import { type Admitted, admit, admitMember, type Caller, requireRecent } from "../auth/caller.ts";
import { identify } from "../auth/identify.ts";
import { requireStillPermitted, whilePermitted } from "../auth/still-permitted.ts";
import { checkAfterBody } from "../http-exchange/body.ts";
import { createTurns } from "../platform/in-turn.ts";
import { isDeadlock } from "../store/database-trouble.ts";
import type { Pool, PoolClient } from "../store/pool.ts";

/** How often a change is tried again that another one stood in the way of. */
const MOST_TRIES = 3;

export type RouteName = OperationName;

/** What is in the audit log, by the code of the refusal. */
const REFUSALS: Partial<Record<ErrorCode, AuditAction>> = {
  "not-permitted": "refused by right",
  "recent-sign-in-required": "recent sign-in required",
  "too-many-attempts": "attempts slowed down",
  "too-many-streams": "stream refused",
};

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
  private readonly secure: boolean;
  private readonly inTurn = createTurns();

  /** @param secure whether the service is behind TLS */
  constructor(pool: Pool, audit: AuditLog, secure: boolean) {
    this.pool = pool;
    this.secure = secure;
    this.audit = audit;
  }

  /** Routes for callers who are signed in and have the right. */
  routes(routes: Routes): Router {
    const router = Router({ caseSensitive: true });
    for (const [name, handler] of Object.entries(routes) as [RouteName, Handler][]) {
      const [method, path] = name.split(" ") as [string, string];
      if (permissions[name] === "anyone") throw new Error(`${name} is for anyone: register it by itself.`);
      const verb = method.toLowerCase() as "get" | "post" | "put" | "patch" | "delete";
      router[verb](path, (req, res) => this.serve(name, handler, req as Request<Record<string, string>>, res));
    }
    return router;
  }

  /**
   * Stores what a caller does, in one transaction that begins with a look at whether they still may. Nothing but the database is told in
   * it: it may be done again where two such transactions wait for each other.
   *
   * @throws RelayError as `holdRight` does
   */
  async change<Result>(caller: Admitted, work: (db: PoolClient) => Promise<Result>): Promise<Result> {
    for (let left = MOST_TRIES; ; left -= 1) {
      try {
        return await whilePermitted(this.pool, caller, work);
      } catch (error) {
        if (!isDeadlock(error) || left === 0) throw error;
      }
    }
  }

  /**
   * Does what takes more than rows of the database while nobody takes the right away. One at a time: it holds one connection of the pool
   * and may need another.
   *
   * @throws RelayError as `holdRight` does
   */
  carryOut<Result>(caller: Admitted, work: (db: PoolClient) => Promise<Result>): Promise<Result> {
    return this.inTurn(() => whilePermitted(this.pool, caller, work));
  }

  /** For what is done in memory, at once after it. @throws RelayError as `requireStillPermitted` does */
  confirm(caller: Admitted): Promise<void> {
    return requireStillPermitted(this.pool, caller);
  }

  private async serve(
    name: RouteName,
    handler: Handler,
    req: Request<Record<string, string>>,
    res: Response,
  ): Promise<void> {
    const caller = await identify(this.pool, req, this.secure);
    try {
      const admitted = admittedTo(name, caller, res);
      requireRecent(caller, recentSignInOf(name));
      checkAfterBody(req, () => requireStillPermitted(this.pool, admitted));
      await handler(req, res, admitted);
    } catch (error) {
      const refusal = error instanceof RelayError ? REFUSALS[error.code] : undefined;
      if (refusal !== undefined) this.audit.recordRefusal(caller, refusal, `${req.method} ${req.path}`.slice(0, 200));
      throw error;
    }
  }
}

/** Aborts when a connection ends before its answer has. */
function goneSignal(res: Response): AbortSignal {
  const gone = new AbortController();
  res.once("close", () => {
    if (!res.writableFinished) gone.abort();
  });
  return gone.signal;
}

/** Only engineers ask for what takes long enough to be ended: descriptions that are checked. */
function admittedTo(name: RouteName, caller: Caller, res: Response): Admitted {
  const right = permissions[name];
  if (right === "build") return { ...admit(caller, right), gone: goneSignal(res) };
  return right === "member" || right === "anyone" ? admitMember(caller) : admit(caller, right);
}
