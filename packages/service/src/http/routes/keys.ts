/** API keys: of members and of inlets. */
import type { KeyView, NewKeyView } from "@bold-relay/api";
import { newKeySchema } from "@bold-relay/api/schema";
import { DAY_MS, type KeyLimits, RelayError } from "@bold-relay/core";
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
      const {
        name,
        inlet,
        most = null,
        sites = null,
        exports = false,
        expiresInDays,
        overlapHours = 0,
      } = await readBody(req, newKeySchema);
      const days = expiresInDays === undefined ? DEFAULT_DAYS : expiresInDays;
      const expiresAt = days === null ? null : clock.now() + days * DAY_MS;
      const given = { ...limitsView({ most, sites, expiresAt }), exports };
      const key = newKey();
      const holder = inlet ?? caller.name;
      const fields = { name, tokenSha256: sha256(key), most, sites, expiresAt, mayExport: exports, createdBy: caller };
      const id = await guard.change(caller, async (db) => {
        const of = inlet === undefined ? { memberId: caller.memberId } : await inletOf(db, inlet, caller);
        const made = await saveKey(db, { ...fields, overlapMs: overlapHours * 3_600_000, ...of });
        const after = { ...given, overlapHours };
        await audit.record({ actor: caller, action: "key created", object: `${name}, of ${holder}`, after }, db);
        return made;
      });
      if (inlet !== undefined) await inlets.refresh();
      res.status(201).json({ id, name, holder, ...given, key } satisfies NewKeyView);
    },

    /** Keys that were created with it, when keys could create keys, end too. */
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
  const { id, name, member, inlet, createdAt, createdBy, creatorIsGone, mayExport: exports } = key;
  const created = { createdAt: new Date(createdAt).toISOString(), createdBy, creatorIsGone };
  return { id, name, member, inlet, ...created, exports, ...limitsView(key) };
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
