/** Signing in and out, who one is, and one's own password. */
import type { SessionView } from "@bold-relay/api";
import { passwordSchema, signInSchema } from "@bold-relay/api/schema";
import { highestRole, RelayError } from "@bold-relay/core";
import { Router } from "express";
import { rateLimit } from "express-rate-limit";
import { type Caller, requireSession } from "../../auth/caller.ts";
import { requireSameOrigin, SESSION_COOKIE, sessionToken } from "../../auth/identify.ts";
import { hashPassword, passwordMatches } from "../../auth/password.ts";
import { newSessionToken, sha256 } from "../../auth/token.ts";
import { limits } from "../../config/config.ts";
import { closeSession, findMember, openSession } from "../../store/identities.ts";
import { changePassword } from "../../store/team.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { sendProblem } from "../problem.ts";

const WINDOW_S = 300;

export function sessionRoutes({ guard, audit, pool, config }: HttpParts): Router {
  const router = Router();
  const slowDown = rateLimit({
    windowMs: WINDOW_S * 1000,
    limit: 10,
    skipSuccessfulRequests: true,
    legacyHeaders: false,
    standardHeaders: "draft-8",
    handler: (_req, res) => {
      res.setHeader("retry-after", WINDOW_S);
      sendProblem(res, new RelayError("too-many-attempts", { seconds: WINDOW_S }));
    },
  });
  const cookie = { httpOnly: true, sameSite: "strict", path: "/", secure: config.secureCookies } as const;

  router.post("/session", slowDown, async (req, res) => {
    requireSameOrigin(req);
    const { name, password } = await readBody(req, signInSchema);
    const member = await findMember(pool, name);
    const matches = await passwordMatches(member?.passwordHash ?? null, password);
    if (!member || !matches) throw new RelayError("wrong-password");
    const token = newSessionToken();
    await openSession(pool, sha256(token), member.id, limits.sessionMs);
    res.cookie(SESSION_COOKIE, token, { ...cookie, maxAge: limits.sessionMs });
    res.json(sessionView({ memberId: member.id, ...member, by: "session" }));
  });

  router.post("/session/password", slowDown);

  router.use(
    guard.routes({
      "GET /session": (_req, res, caller) => {
        res.json(sessionView(caller));
      },

      "DELETE /session": async (req, res) => {
        const token = sessionToken(req);
        if (token !== null) await closeSession(pool, sha256(token));
        res.clearCookie(SESSION_COOKIE, cookie);
        res.status(204).end();
      },

      /** Ends every other session of the member. */
      "POST /session/password": async (req, res, caller) => {
        requireSession(caller);
        const { name } = caller;
        const { password, next } = await readBody(req, passwordSchema);
        const member = await findMember(pool, name);
        if (!member || !(await passwordMatches(member.passwordHash, password))) throw new RelayError("wrong-password");
        const token = sessionToken(req);
        await changePassword(pool, member.id, await hashPassword(next), token === null ? null : sha256(token));
        await audit.record({ actor: caller, action: "password changed", object: name });
        res.status(204).end();
      },
    }),
  );
  return router;
}

function sessionView({
  memberId,
  name,
  standing,
  by,
}: Pick<Caller, "memberId" | "name" | "standing" | "by">): SessionView {
  const sites = standing.team === null ? Object.entries(standing.sites).map(([site, role]) => ({ site, role })) : null;
  return { id: memberId, name, role: highestRole(standing), sites, by };
}
