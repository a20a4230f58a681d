/** Signing in and out, who one is, and a new password: one's own, or by a one-time link. */
import type { PasskeyOptionsView, ResetCheckView, SecondFactorView } from "@bold-relay/api";
import {
  passkeySignInSchema,
  passwordSchema,
  resetCheckSchema,
  resetSchema,
  secondFactorSchema,
  signInSchema,
} from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { Router } from "express";
import { unknownCaller } from "../../auth/audit-log.ts";
import { requireSession } from "../../auth/caller.ts";
import { sessionToken } from "../../auth/identify.ts";
import { hashPassword } from "../../auth/password.ts";
import { requireGoodPassword } from "../../auth/password-rules.ts";
import { SignIn } from "../../auth/sign-in.ts";
import { sha256 } from "../../auth/token.ts";
import { readBody } from "../../http-exchange/body.ts";
import { clientOf, sessionCookie } from "../../http-exchange/client-of.ts";
import { endEverythingOf, endKeysOf, findReset } from "../../store/accounts.ts";
import { closeSession, findMember } from "../../store/identities.ts";
import { findKeys } from "../../store/keys.ts";
import { type Db, inTransaction } from "../../store/pool.ts";
import { changePassword, setPassword } from "../../store/team.ts";
import type { HttpDeps } from "../deps.ts";
import { sessionAnswer, sessionView } from "../session-answer.ts";

export function sessionRoutes({
  guard,
  audit,
  pool,
  config,
  passwordAgain,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "config" | "passwordAgain">): Router {
  const router = Router({ caseSensitive: true });
  const signIn = new SignIn({ pool, audit, secretsKey: config.secretsKey });
  const cookie = sessionCookie(config.secureCookies);
  const answer = sessionAnswer({ pool, config });

  router.post("/session", async (req, res) => {
    const client = clientOf(req);
    const { name, password } = await readBody(req, signInSchema);
    const signed = await signIn.withPassword(name, password, client);
    if ("token" in signed) return answer(req, res, signed);
    res.json({ secondFactor: signed } satisfies SecondFactorView);
  });

  router.post("/session/second", async (req, res) => {
    const client = clientOf(req);
    const { ticket, ...proof } = await readBody(req, secondFactorSchema);
    await answer(req, res, await signIn.withSecond(ticket, proof, client));
  });

  router.post("/session/passkey/options", async (req, res) => {
    res.json((await signIn.passkeyOptions(clientOf(req))) satisfies PasskeyOptionsView);
  });

  router.post("/session/passkey", async (req, res) => {
    const client = clientOf(req);
    const { ticket, passkey } = await readBody(req, passkeySignInSchema);
    await answer(req, res, await signIn.withPasskey(ticket, passkey, client));
  });

  /** The link still counts after it. */
  router.post("/session/reset/check", async (req, res) => {
    const { address } = clientOf(req);
    const { token } = await readBody(req, resetCheckSchema);
    const { memberId, name } = await resetOf(pool, token, address);
    const keys = (await findKeys(pool)).filter((key) => key.memberId === memberId);
    res.json({
      name,
      keys: keys.map(({ name: called, createdAt, expiresAt }) => ({
        name: called,
        createdAt: new Date(createdAt).toISOString(),
        expiresAt: expiresAt === null ? null : new Date(expiresAt).toISOString(),
      })),
    } satisfies ResetCheckView);
  });

  /** Every session of the member ends, and every key unless they say otherwise: whoever had the password before has nothing left. */
  router.post("/session/reset", async (req, res) => {
    const { address } = clientOf(req);
    const { token, password, endKeys = true } = await readBody(req, resetSchema);
    await inTransaction(pool, async (db) => {
      const { memberId, name } = await resetOf(db, token, address);
      const member = await findMember(db, name);
      await requireGoodPassword(password, name, member?.passwordHash ?? null);
      await setPassword(db, memberId, await hashPassword(password));
      const endedKeys = await endEverythingOf(db, memberId, endKeys);
      await audit.record(
        {
          actor: { name, memberId, keyId: null, address },
          action: "password reset",
          object: name,
          after: { endedKeys },
        },
        db,
      );
    });
    res.status(204).end();
  });

  router.use(
    guard.routes({
      "GET /session": (_req, res, caller) => {
        res.json(sessionView(caller));
      },

      "DELETE /session": async (req, res, caller) => {
        const token = sessionToken(req, config.secureCookies);
        if (token !== null) await closeSession(pool, sha256(token));
        if (token !== null) await audit.record({ actor: caller, action: "signed out", object: caller.name });
        res.clearCookie(cookie.name, cookie.options);
        res.status(204).end();
      },

      /** Ends every other session of the member, and their keys if they say so. */
      "POST /session/password": async (req, res, caller) => {
        requireSession(caller);
        const { password, next, endKeys = false } = await readBody(req, passwordSchema);
        const member = await passwordAgain.require(caller, password);
        await requireGoodPassword(next, member.name, member.passwordHash);
        const passwordHash = await hashPassword(next);
        await guard.change(caller, async (db) => {
          await changePassword(db, member.id, passwordHash, caller.tokenSha256);
          const after = endKeys ? { endedKeys: await endKeysOf(db, member.id) } : null;
          await audit.record({ actor: caller, action: "password changed", object: caller.name, after }, db);
        });
        res.status(204).end();
      },
    }),
  );
  return router;

  /** Whose link it is. @throws RelayError wrong-link */
  async function resetOf(db: Db, token: string, address: string | null) {
    const reset = await findReset(db, sha256(token));
    if (reset) return reset;
    audit.recordRefusal(unknownCaller(address), "password reset failed", "a link that is not valid");
    throw new RelayError("wrong-link");
  }
}
