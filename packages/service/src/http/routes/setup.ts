/** The first owner of an installation, by the one-time link that the service printed. */
import type { SetupView } from "@bold-relay/api";
import { setupSchema } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import { Router } from "express";
import { unknownCaller } from "../../auth/audit-log.ts";
import { hashPassword } from "../../auth/password.ts";
import { requireGoodPassword } from "../../auth/password-rules.ts";
import { SignIn } from "../../auth/sign-in.ts";
import { sha256 } from "../../auth/token.ts";
import { readBody } from "../../http-exchange/body.ts";
import { clientOf } from "../../http-exchange/client-of.ts";
import { findMember, saveMember } from "../../store/identities.ts";
import { inTransaction } from "../../store/pool.ts";
import { isSetupLink, useSetupLink } from "../../store/setup-links.ts";
import { countOwners } from "../../store/team.ts";
import type { HttpDeps } from "../deps.ts";
import { sessionAnswer } from "../session-answer.ts";

export function setupRoutes({ audit, pool, config }: Pick<HttpDeps, "audit" | "pool" | "config">): Router {
  const router = Router({ caseSensitive: true });
  const signIn = new SignIn({ pool, audit, secretsKey: config.secretsKey });
  const answer = sessionAnswer({ pool, config });

  router.get("/setup", async (_req, res) => {
    res.json({ hasOwner: (await countOwners(pool)) > 0 } satisfies SetupView);
  });

  router.post("/setup", async (req, res) => {
    const client = clientOf(req);
    const { token, name, password } = await readBody(req, setupSchema);
    const wrong = () => {
      audit.recordRefusal(unknownCaller(client.address), "set-up failed", "a link that is not valid");
      return new RelayError("wrong-setup-link");
    };
    // Before anything that costs time: everybody may call this.
    if (!(await isSetupLink(pool, sha256(token)))) throw wrong();
    await requireGoodPassword(password, name, null);
    const passwordHash = await hashPassword(password);
    const member = await inTransaction(pool, async (db) => {
      if (!(await useSetupLink(db, sha256(token)))) throw wrong();
      // An owner was added by other means meanwhile, or a member has this name: the link is for an empty installation.
      if ((await countOwners(db)) > 0 || (await findMember(db, name)) !== null) throw wrong();
      const id = await saveMember(db, name, passwordHash, "owner");
      const actor = { name, memberId: id, keyId: null, address: client.address };
      await audit.record({ actor, action: "owner added", object: name }, db);
      return { id, name };
    });
    await answer(req, res, await signIn.open(member, client, "set-up link"));
  });
  return router;
}
