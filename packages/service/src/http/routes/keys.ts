/** API keys: of members and of inlets. A key never gives more than the key that makes it. */
import type { KeyView, NewKeyView } from "@bold-relay/api";
import { newKeySchema } from "@bold-relay/api/schema";
import { DAY_MS, type KeyLimits, RelayError, withinLimits } from "@bold-relay/core";
import type { Router } from "express";
import { type Admitted, siteCheck } from "../../auth/caller.ts";
import { newKey, sha256 } from "../../auth/token.ts";
import { readBody } from "../../http-exchange/body.ts";
import { findInlets } from "../../store/identities.ts";
import { findKeys, type KeyOf, type KeyRecord, revokeKey, saveKey } from "../../store/keys.ts";
import type { Db } from "../../store/pool.ts";
import { isWithin } from "../../views/reach.ts";
import type { HttpDeps } from "../deps.ts";

/** Chosen where nothing is said: *never* must be. */
const DEFAULT_DAYS = 90;

export function keyRoutes({
  guard,
  audit,
  pool,
  clock,
  inlets,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "clock" | "inlets">): Router {
  return guard.routes({
    /** An owner sees every key; others their own and those of their sites' inlets. */
    "GET /keys": async (_req, res, caller) => {
      res.json((await findKeys(pool)).filter((key) => isTheirs(key, caller)).map(keyView));
    },

    /** A key of the same name and holder ends, after the overlap: that is how one is rotated. */
    "POST /keys": async (req, res, caller) => {
      const { name, inlet, most, sites, expiresInDays, overlapHours = 0 } = await readBody(req, newKeySchema);
      const days = expiresInDays === undefined ? DEFAULT_DAYS : expiresInDays;
      const expiresAt = days === null ? null : clock.now() + days * DAY_MS;
      const limits = withinLimits({ most: most ?? null, sites: sites ?? null, expiresAt }, caller.limits);
      if (limits.sites?.length === 0)
        throw new RelayError("not-permitted", { why: "The key that you use reaches none of these sites" });
      const key = newKey();
      const holder = inlet ?? caller.name;
      const fields = { name, tokenSha256: sha256(key), ...limits, madeBy: caller.keyId };
      const id = await guard.change(caller, async (db) => {
        const of = inlet === undefined ? { memberId: caller.memberId } : await inletOf(db, inlet, caller);
        const made = await saveKey(db, { ...fields, overlapMs: overlapHours * 3_600_000, ...of });
        const after = { ...limitsView(limits), overlapHours };
        await audit.record({ actor: caller, action: "key created", object: `${name}, of ${holder}`, after }, db);
        return made;
      });
      if (inlet !== undefined) await inlets.refresh();
      res.status(201).json({ id, name, holder, ...limitsView(limits), key } satisfies NewKeyView);
    },

    /** Keys that were made with it end too. */
    "DELETE /keys/:id": async (req, res, caller) => {
      await guard.change(caller, async (db) => {
        const key = (await findKeys(db)).find((one) => String(one.id) === req.params.id);
        if (!key || !isTheirs(key, caller)) throw new RelayError("not-found", { what: "A key with this id" });
        const ended = await revokeKey(db, key.id);
        const object = `${key.name}, of ${key.member ?? key.inlet}`;
        const before = { ...keyView(key), ended };
        await audit.record({ actor: caller, action: "key revoked", object, before }, db);
      });
      await inlets.refresh();
      res.status(204).end();
    },
  });
}

function limitsView({ most, sites, expiresAt }: KeyLimits) {
  return {
    most,
    sites: sites === null ? null : [...sites],
    expiresAt: expiresAt === null ? null : new Date(expiresAt).toISOString(),
  };
}

function keyView(key: KeyRecord): KeyView {
  const { id, name, member, inlet, createdAt } = key;
  return { id, name, member, inlet, createdAt: new Date(createdAt).toISOString(), ...limitsView(key) };
}

/** Everybody makes keys for themselves; engineers also for the inlets of their sites. */
async function inletOf(db: Db, slug: string, caller: Admitted): Promise<KeyOf> {
  const what = `The inlet ${slug}`;
  const inlet = (await findInlets(db)).find((one) => one.slug === slug);
  if (!inlet) throw new RelayError("not-found", { what });
  siteCheck(caller, what).stored(inlet.site);
  return { inletId: inlet.id };
}

function isTheirs({ memberId, inlet, inletSite }: KeyRecord, { standing, sites, ...caller }: Admitted): boolean {
  if (standing.team === "owner" || memberId === caller.memberId) return true;
  return inlet !== null && isWithin(inletSite, sites);
}
