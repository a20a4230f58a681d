/** Members, keys, and the audit of every change to who may do what. */
import { randomBytes } from "node:crypto";
import type { AuditPage, KeyView, MemberView, NewKeyView, NewMemberView } from "@bold-relay/api";
import { auditQuerySchema, memberSchema, newKeySchema, newMemberSchema } from "@bold-relay/api/schema";
import { RelayError, type Standing } from "@bold-relay/core";
import type { Router } from "express";
import type { Admitted } from "../../auth/identify.ts";
import { hashPassword } from "../../auth/password.ts";
import { newKey, sha256 } from "../../auth/token.ts";
import { findInlets, findMember, saveMember } from "../../store/identities.ts";
import { findKeys, type KeyOf, type KeyRecord, revokeKey, saveKey } from "../../store/keys.ts";
import { type Db, inTransaction } from "../../store/pool.ts";
import {
  countOwners,
  findAudit,
  findTeam,
  removeMember,
  saveAudit,
  setStanding,
  type TeamMember,
} from "../../store/team.ts";
import { checked, readBody } from "../body.ts";
import type { HttpParts } from "../parts.ts";
import { guardedRouter, requireSite } from "../permissions.ts";

const AUDIT_PAGE = 100;

export function teamRoutes({ pool, clock, feed, house }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /members": async (_req, res) => {
      res.json((await findTeam(pool)).map(memberView));
    },

    "POST /members": async (req, res, { name: actor }) => {
      const { name, ...body } = await readBody(req, newMemberSchema);
      const standing = standingOf(body);
      const password = randomBytes(12).toString("base64url");
      const passwordHash = await hashPassword(password);
      await inTransaction(pool, async (db) => {
        if (await findMember(db, name)) throw new RelayError("exists-already", { what: `A member called ${name}` });
        const id = await saveMember(db, name, passwordHash, standing.team);
        await give(db, id, standing);
        await saveAudit(db, { actor, action: "member added", object: name, before: null, after: standing });
      });
      res.status(201).json({ name, ...rolesView(standing), password } satisfies NewMemberView);
    },

    /** The member's roles are exactly these from now on. */
    "PUT /members/:name": async (req, res, { name: actor }) => {
      const standing = standingOf(await readBody(req, memberSchema));
      const name = await inTransaction(pool, async (db) => {
        const member = await existing(db, req.params.name);
        await give(db, member.id, standing);
        await keepAnOwner(db);
        const { standing: before } = member;
        await saveAudit(db, { actor, action: "roles changed", object: member.name, before, after: standing });
        return member.name;
      });
      feed.drop(name);
      res.json({ name, ...rolesView(standing) });
    },

    /** Sessions, keys and live connections end at once. */
    "DELETE /members/:name": async (req, res, { name: actor }) => {
      const name = await inTransaction(pool, async (db) => {
        const member = await existing(db, req.params.name);
        await removeMember(db, member.id);
        await keepAnOwner(db);
        const { standing: before } = member;
        await saveAudit(db, { actor, action: "member removed", object: member.name, before, after: null });
        return member.name;
      });
      feed.drop(name);
      res.status(204).end();
    },

    /** An owner sees every key; others their own and those of their sites' inlets. */
    "GET /keys": async (_req, res, caller) => {
      const inlets = new Map((await findInlets(pool)).map((inlet) => [inlet.slug, inlet.site]));
      const keys = (await findKeys(pool)).filter((key) => isTheirs(key, caller, inlets));
      res.json(keys.map(keyView));
    },

    /** A key of the same name and holder ends, after the overlap: that is how one is rotated. */
    "POST /keys": async (req, res, caller) => {
      const { name, inlet, most, expiresInDays, overlapHours } = await readBody(req, newKeySchema);
      const key = newKey();
      const expiresAt = expiresInDays === undefined ? null : clock.now() + expiresInDays * 86_400_000;
      await inTransaction(pool, async (db) => {
        const holder = await holderOf(db, inlet, caller);
        const overlapMs = (overlapHours ?? 0) * 3_600_000;
        await saveKey(db, { name, tokenSha256: sha256(key), most: most ?? null, expiresAt, overlapMs, ...holder });
        const after = { most: most ?? null, expiresInDays: expiresInDays ?? null, overlapHours: overlapHours ?? 0 };
        const object = `${name}, of ${inlet ?? caller.name}`;
        await saveAudit(db, { actor: caller.name, action: "key made", object, before: null, after });
      });
      if (inlet !== undefined) await house.refresh();
      const expires = expiresAt === null ? null : new Date(expiresAt).toISOString();
      res.status(201).json({ name, holder: inlet ?? caller.name, expiresAt: expires, key } satisfies NewKeyView);
    },

    "DELETE /keys/:id": async (req, res, caller) => {
      await inTransaction(pool, async (db) => {
        const inlets = new Map((await findInlets(db)).map((inlet) => [inlet.slug, inlet.site]));
        const key = (await findKeys(db)).find((one) => String(one.id) === req.params.id);
        if (!key || !isTheirs(key, caller, inlets)) throw new RelayError("not-found", { what: "A key with this id" });
        await revokeKey(db, key.id);
        const object = `${key.name}, of ${key.member ?? key.inlet}`;
        await saveAudit(db, { actor: caller.name, action: "key revoked", object, before: keyView(key), after: null });
      });
      await house.refresh();
      res.status(204).end();
    },

    "GET /audit": async (req, res) => {
      const { before } = checked(auditQuerySchema, req.query);
      const records = await findAudit(pool, before ?? null, AUDIT_PAGE);
      const entries = records.map(({ at, ...record }) => ({ ...record, at: new Date(at).toISOString() }));
      const next = records.length < AUDIT_PAGE ? null : (records.at(-1)?.id ?? null);
      res.json({ entries, next } satisfies AuditPage);
    },
  });
}

type RolesBody = Pick<MemberView, "role" | "sites">;

function standingOf({ role, sites }: Partial<RolesBody>): Standing {
  return { team: role ?? null, sites: Object.fromEntries((sites ?? []).map((one) => [one.site, one.role])) };
}

function rolesView({ team, sites }: Standing): RolesBody {
  return { role: team, sites: Object.entries(sites).map(([site, role]) => ({ site, role })) };
}

function memberView({ name, standing, since }: TeamMember): MemberView {
  return { name, ...rolesView(standing), since: new Date(since).toISOString() };
}

function keyView({ id, name, member, inlet, most, createdAt, expiresAt }: KeyRecord): KeyView {
  const expires = expiresAt === null ? null : new Date(expiresAt).toISOString();
  return { id, name, member, inlet, most, createdAt: new Date(createdAt).toISOString(), expiresAt: expires };
}

async function give(db: Db, id: number, standing: Standing): Promise<void> {
  const unknown = await setStanding(db, id, standing);
  if (unknown !== null) throw new RelayError("bad-request", { why: `There is no site “${unknown}”` });
}

/** Nobody could mend a team without one. */
async function keepAnOwner(db: Db): Promise<void> {
  if ((await countOwners(db)) === 0) throw new RelayError("last-owner");
}

async function existing(db: Db, name: string | undefined) {
  const member = await findMember(db, name ?? "");
  if (!member) throw new RelayError("not-found", { what: `A member called “${name}”` });
  return member;
}

/** Everybody makes keys for themselves; engineers also for the inlets of their sites. */
async function holderOf(db: Db, inletSlug: string | undefined, caller: Admitted): Promise<KeyOf> {
  if (inletSlug === undefined) return { memberId: (await existing(db, caller.name)).id };
  const inlet = (await findInlets(db)).find((one) => one.slug === inletSlug);
  if (!inlet) throw new RelayError("not-found", { what: `An inlet called “${inletSlug}”` });
  if (inlet.site !== null) requireSite(caller, inlet.site);
  else if (caller.sites !== null) throw new RelayError("not-permitted", { why: "This inlet is for every site" });
  return { inletId: inlet.id };
}

function isTheirs({ member, inlet }: KeyRecord, caller: Admitted, inlets: ReadonlyMap<string, string | null>): boolean {
  if (caller.standing.team === "owner" || member === caller.name) return true;
  if (inlet === null) return false;
  const site = inlets.get(inlet) ?? null;
  return caller.sites === null || (site !== null && caller.sites.includes(site));
}
