/** One's own account: sessions, the authenticator app with its recovery codes, passkeys. Only from a session, never with a key. */

import type { AccountView, NewAppView, PasskeyOptionsView, RecoveryCodesView } from "@bold-relay/api";
import { confirmAppSchema, newPasskeySchema, passwordAgainSchema } from "@bold-relay/api/schema";
import { highestRole, RelayError } from "@bold-relay/core";
import type { RegistrationResponseJSON } from "@simplewebauthn/server";
import type { Router } from "express";
import { type Admitted, requireSession } from "../../auth/caller.ts";
import { type RelyingParty, registeredPasskey, registrationOptions } from "../../auth/passkeys.ts";
import { seal, unsealed } from "../../auth/seal.ts";
import { newRecoveryCodes, newTotp, recoveryHash, totpStep } from "../../auth/second-factor.ts";
import { Tickets } from "../../auth/tickets.ts";
import { readBody } from "../../http-exchange/body.ts";
import { ownPages } from "../../http-exchange/client-of.ts";
import { limits } from "../../platform/config/limits.ts";
import {
  closeSessionOf,
  confirmTotp,
  dropTotp,
  findSecondFactor,
  findSecondFactorRemoval,
  findSecondFactorRule,
  findSessionsOf,
  findTotpDraft,
  removePasskey,
  savePasskey,
  saveTotpSecret,
} from "../../store/accounts.ts";
import { noteSecondFactor } from "../../store/identities.ts";
import type { HttpDeps } from "../deps.ts";

interface Registration {
  readonly memberId: number;
  readonly challenge: string;
  readonly rp: RelyingParty;
}

const MOST_PASSKEYS = 20;

export function accountRoutes({
  guard,
  audit,
  pool,
  config,
  passwordAgain,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "config" | "passwordAgain">): Router {
  const registrations = new Tickets<Registration>(1);
  return guard.routes({
    "GET /account": async (_req, res, caller) => {
      requireSession(caller);
      const { memberId, name, standing } = caller;
      const [second, removed, sessions, neededFor] = await Promise.all([
        findSecondFactor(pool, memberId),
        findSecondFactorRemoval(pool, memberId),
        findSessionsOf(pool, memberId, limits.sessionIdleMs),
        findSecondFactorRule(pool),
      ]);
      const role = highestRole(standing);
      res.json({
        name,
        secondFactorRequired: role !== null && neededFor.includes(role),
        secondFactorRemoved: removed && { by: removed.by, at: time(removed.at) },
        app: second.totpSecret !== null,
        recoveryCodes: second.recoveryCodes,
        passkeys: second.passkeys.map(({ id, name: called, createdAt, usedAt }) => ({
          id,
          name: called,
          createdAt: time(createdAt),
          usedAt: usedAt === null ? null : time(usedAt),
        })),
        sessions: sessions.map(({ tokenSha256, createdAt, seenAt, expiresAt, ...session }) => ({
          ...session,
          current: tokenSha256.equals(caller.tokenSha256),
          createdAt: time(createdAt),
          seenAt: time(seenAt),
          expiresAt: time(expiresAt),
        })),
      } satisfies AccountView);
    },

    "DELETE /account/sessions/:id": async (req, res, caller) => {
      requireSession(caller);
      const { id = "" } = req.params;
      await guard.change(caller, async (db) => {
        const found = UUID.test(id) ? await closeSessionOf(db, caller.memberId, id) : false;
        if (!found) throw new RelayError("not-found", { what: "A session with this id" });
        await audit.record({ actor: caller, action: "session ended", object: caller.name }, db);
      });
      res.status(204).end();
    },

    /** It counts once a first code has come: a secret that no phone has would shut its member out. */
    "POST /account/app": async (req, res, caller) => {
      requireSession(caller);
      await passwordAgain.require(caller, (await readBody(req, passwordAgainSchema)).password);
      await requireNoApp(caller);
      const { secret, uri } = await newTotp(caller.name);
      const sealed = seal(secret, requireSecretsKey());
      await guard.change(caller, (db) => saveTotpSecret(db, caller.memberId, sealed));
      res.status(201).json({ secret, uri } satisfies NewAppView);
    },

    "PUT /account/app": async (req, res, caller) => {
      requireSession(caller);
      const { code } = await readBody(req, confirmAppSchema);
      const attempt = passwordAgain.beginCode(caller);
      const draft = await findTotpDraft(pool, caller.memberId);
      const secret = draft && unsealed(draft, config.secretsKey);
      const step = secret ? await totpStep(secret, code.replace(/\s/g, "")) : null;
      if (step === null) throw new RelayError("wrong-second-factor");
      attempt.succeeded();
      const recoveryCodes = newRecoveryCodes();
      await guard.change(caller, async (db) => {
        await confirmTotp(db, caller.memberId, step, recoveryCodes.map(recoveryHash));
        await noteSecondFactor(db, caller.tokenSha256);
        await audit.record({ actor: caller, action: "authenticator app added", object: caller.name }, db);
      });
      res.json({ recoveryCodes } satisfies RecoveryCodesView);
    },

    "POST /account/app/off": async (req, res, caller) => {
      requireSession(caller);
      await passwordAgain.require(caller, (await readBody(req, passwordAgainSchema)).password);
      await guard.change(caller, async (db) => {
        await dropTotp(db, caller.memberId);
        await audit.record({ actor: caller, action: "authenticator app removed", object: caller.name }, db);
      });
      res.status(204).end();
    },

    "POST /account/passkeys/options": async (req, res, caller) => {
      requireSession(caller);
      await passwordAgain.require(caller, (await readBody(req, passwordAgainSchema)).password);
      const { passkeys } = await findSecondFactor(pool, caller.memberId);
      if (passkeys.length >= MOST_PASSKEYS)
        throw new RelayError("bad-request", { why: `You have ${MOST_PASSKEYS} passkeys already: delete one first` });
      const rp = ownPages(req);
      const options = await registrationOptions(rp, { id: caller.memberId, name: caller.name }, passkeys);
      const ticket = registrations.put({ memberId: caller.memberId, challenge: options.challenge, rp });
      res.json({ ticket, options } satisfies PasskeyOptionsView);
    },

    "POST /account/passkeys": async (req, res, caller) => {
      requireSession(caller);
      const { ticket, name, passkey } = await readBody(req, newPasskeySchema);
      const registration = registrations.take(ticket);
      if (registration?.memberId !== caller.memberId) throw new RelayError("sign-in-over");
      const { rp, challenge, memberId } = registration;
      const made = await registeredPasskey(rp, challenge, passkey as RegistrationResponseJSON);
      await guard.change(caller, async (db) => {
        await savePasskey(db, { ...made, memberId, name, rpId: rp.id });
        await noteSecondFactor(db, caller.tokenSha256);
        await audit.record({ actor: caller, action: "passkey added", object: caller.name, after: { name } }, db);
      });
      res.status(204).end();
    },

    "DELETE /account/passkeys/:id": async (req, res, caller) => {
      requireSession(caller);
      await guard.change(caller, async (db) => {
        const name = await removePasskey(db, caller.memberId, req.params.id ?? "");
        if (name === null) throw new RelayError("not-found", { what: "A passkey with this id" });
        await audit.record({ actor: caller, action: "passkey deleted", object: caller.name, before: { name } }, db);
      });
      res.status(204).end();
    },
  });

  function requireSecretsKey(): Buffer {
    if (!config.secretsKey) throw new RelayError("no-secrets-key");
    return config.secretsKey;
  }

  /** One that stands is taken off with the password, not written over by whoever sits at an open page. */
  async function requireNoApp({ memberId }: Admitted): Promise<void> {
    const { totpSecret } = await findSecondFactor(pool, memberId);
    if (totpSecret !== null) throw new RelayError("exists-already", { what: "An authenticator app" });
  }
}

/** Of any version: the database makes these. */
const UUID = /^[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}$/;

function time(at: number): string {
  return new Date(at).toISOString();
}
