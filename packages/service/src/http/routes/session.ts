/** Signing in and out, and who one is. */
import type { SessionView } from "@bold-relay/api";
import { signInSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { Router } from "express";
import { rateLimit } from "express-rate-limit";
import { type Caller, identify, requireSameOrigin, SESSION_COOKIE, sessionToken } from "../../auth/identify.ts";
import { passwordMatches } from "../../auth/password.ts";
import { newSessionToken, sha256 } from "../../auth/token.ts";
import { limits } from "../../config/config.ts";
import { closeSession, findMember, openSession } from "../../store/identities.ts";
import { readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { sendProblem } from "../problem.ts";

const WINDOW_S = 300;

export function sessionRoutes({ pool, config }: HttpParts): Router {
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
    res.json({ name: member.name, role: "owner", by: "session" } satisfies SessionView);
  });

  router.get("/session", async (req, res) => {
    res.json(sessionView(await identify(pool, req)));
  });

  router.delete("/session", async (req, res) => {
    await identify(pool, req);
    const token = sessionToken(req);
    if (token !== null) await closeSession(pool, sha256(token));
    res.clearCookie(SESSION_COOKIE, cookie);
    res.status(204).end();
  });

  return router;
}

function sessionView({ name, by }: Caller): SessionView {
  return { name, role: "owner", by };
}
