/** Members, and the audit log. */
import { randomBytes } from "node:crypto";
import type { AuditPage, MemberView, NewMemberView, ResetLinkView, TeamRulesView } from "@bold-relay/api";
import {
  auditQuerySchema,
  memberDeletionSchema,
  memberSchema,
  newMemberSchema,
  passwordAgainSchema,
  teamRulesSchema,
} from "@bold-relay/api/schema";
import { RelayError, type Standing } from "@bold-relay/core";
import type { Router } from "express";
import { requireSession } from "../../auth/caller.ts";
import { hashPassword } from "../../auth/password.ts";
import { newSessionToken, sha256 } from "../../auth/token.ts";
import { checked, readBody } from "../../http-exchange/body.ts";
import { limits } from "../../platform/config/limits.ts";
import { findSecondFactorRule, removeSecondFactor, saveReset, saveSecondFactorRule } from "../../store/accounts.ts";
import { findAudit } from "../../store/audit.ts";
import { findMember, saveMember } from "../../store/identities.ts";
import type { Db } from "../../store/pool.ts";
import { countOwners, findLookAlike, findTeam, removeMember, setStanding, type TeamMember } from "../../store/team.ts";
import type { HttpDeps } from "../deps.ts";

const AUDIT_PAGE = 100;

export function teamRoutes({
  guard,
  audit,
  pool,
  passwordAgain,
  inlets,
}: Pick<HttpDeps, "guard" | "audit" | "pool" | "passwordAgain" | "inlets">): Router {
  return guard.routes({
    "GET /members": async (_req, res) => {
      res.json((await findTeam(pool)).map(memberView));
    },

    "POST /members": async (req, res, actor) => {
      const { name, invite = false, ...body } = await readBody(req, newMemberSchema);
      const standing = standingOf(body);
      // Of who is invited nobody ever knows it: their link sets the first one.
      const password = randomBytes(invite ? 32 : 12).toString("base64url");
      const passwordHash = await hashPassword(password);
      const token = newSessionToken();
      await guard.change(actor, async (db) => {
        const alike = await findLookAlike(db, name);
        if (alike !== null) throw new RelayError("exists-already", { what: alikeText(name, alike) });
        const id = await saveMember(db, name, passwordHash, standing.team);
        await give(db, id, standing);
        if (invite) await saveReset(db, id, sha256(token), limits.inviteMs);
        await audit.record(
          { actor, action: invite ? "member invited" : "member added", object: name, after: standing },
          db,
        );
      });
      const made = invite
        ? { password: null, invitation: linkView(token, limits.inviteMs) }
        : { password, invitation: null };
      res.status(201).json({ name, ...rolesView(standing), ...made } satisfies NewMemberView);
    },

    /** The member's roles are exactly these from now on. */
    "PUT /members/:name": async (req, res, actor) => {
      const standing = standingOf(await readBody(req, memberSchema));
      const name = await guard.change(actor, async (db) => {
        const member = await existing(db, req.params.name);
        await give(db, member.id, standing);
        await keepAnOwner(db);
        const { standing: before } = member;
        await audit.record({ actor, action: "roles changed", object: member.name, before, after: standing }, db);
        return member.name;
      });
      res.json({ name, ...rolesView(standing) });
    },

    /** Sessions, keys and live connections end at once. Keys of inlets end where the caller says so. */
    "DELETE /members/:name": async (req, res, actor) => {
      const { inletKeys } = checked(memberDeletionSchema, req.query);
      await guard.change(actor, async (db) => {
        const member = await existing(db, req.params.name);
        const revoked = await removeMember(db, member.id, inletKeys === "revoke");
        await keepAnOwner(db);
        const { standing: before } = member;
        const after = revoked.length === 0 ? null : { revokedKeys: revoked };
        await audit.record({ actor, action: "member removed", object: member.name, before, after }, db);
      });
      await inlets.refresh();
      res.status(204).end();
    },

    /** Nothing changes until the link is used. The links of before end. */
    "POST /members/:name/reset": async (req, res, actor) => {
      const token = newSessionToken();
      await guard.change(actor, async (db) => {
        const member = await existing(db, req.params.name);
        await saveReset(db, member.id, sha256(token), limits.resetMs);
        await audit.record({ actor, action: "password reset link created", object: member.name }, db);
      });
      res.status(201).json(linkView(token, limits.resetMs));
    },

    /** For who has lost their phone. Their sessions end: the phone may be in somebody's hands. */
    "POST /members/:name/second-factor/off": async (req, res, actor) => {
      requireSession(actor);
      await passwordAgain.require(actor, (await readBody(req, passwordAgainSchema)).password);
      await guard.change(actor, async (db) => {
        const member = await existing(db, req.params.name);
        if (!(await removeSecondFactor(db, member.id, actor.name)))
          throw new RelayError("not-found", { what: `A second factor of ${member.name}` });
        await audit.record({ actor, action: "second factor removed", object: member.name }, db);
      });
      res.status(204).end();
    },

    "GET /team/rules": async (_req, res) => {
      res.json({ secondFactorFor: await findSecondFactorRule(pool) } satisfies TeamRulesView);
    },

    /** Whoever needs one from now on and has none may do nothing else until they have. */
    "PUT /team/rules": async (req, res, actor) => {
      const after = await readBody(req, teamRulesSchema);
      await guard.change(actor, async (db) => {
        const before = { secondFactorFor: await findSecondFactorRule(db) };
        await saveSecondFactorRule(db, after.secondFactorFor);
        await audit.record({ actor, action: "team rules changed", object: "team", before, after }, db);
      });
      res.json(after satisfies TeamRulesView);
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

function memberView({ name, standing, secondFactor, since }: TeamMember): MemberView {
  return { name, ...rolesView(standing), secondFactor, since: new Date(since).toISOString() };
}

async function give(db: Db, id: number, standing: Standing): Promise<void> {
  const unknown = await setStanding(db, id, standing);
  if (unknown !== null) throw new RelayError("bad-request", { why: `There is no site “${unknown}”` });
}

/** Nobody could mend a team without one. */
async function keepAnOwner(db: Db): Promise<void> {
  if ((await countOwners(db)) === 0) throw new RelayError("last-owner");
}

function alikeText(name: string, alike: string): string {
  return name === alike ? `A member called ${name}` : `A member called ${alike}, whose name looks like ${name},`;
}

async function existing(db: Db, name: string | undefined) {
  const member = await findMember(db, name ?? "");
  if (!member) throw new RelayError("not-found", { what: `A member called “${name}”` });
  return member;
}

function linkView(token: string, forMs: number): ResetLinkView {
  return { path: `/reset#${token}`, expiresAt: new Date(Date.now() + forMs).toISOString() };
}
