/** `owner`: the way back in for whoever has the machine. */
import { randomBytes } from "node:crypto";
import { memberName } from "@bold-relay/api/schema";
import { SERVER_PROGRAM } from "../auth/audit-log.ts";
import { hashPassword } from "../auth/password.ts";
import { dropSecondFactor, endEverythingOf } from "../store/accounts.ts";
import { insertAudit } from "../store/audit.ts";
import { findMember, saveMember } from "../store/identities.ts";
import { migrate } from "../store/migrate.ts";
import { type Db, inTransaction } from "../store/pool.ts";
import { findLookAlike } from "../store/team.ts";
import { withDatabase } from "./database.ts";

export interface NewOwner {
  readonly owner: string;
  /** Shown once. */
  readonly password: string;
}

/** Adds an owner, or gives a member this role and a new password. Their sessions, keys and second factor end. */
export function resetOwner(databaseUrl: string, name: string): Promise<NewOwner> {
  return withDatabase(databaseUrl, async (pool) => {
    await migrate(pool);
    return inTransaction(pool, (db) => saveOwner(db, name));
  });
}

/** @throws Error where the name is new, and another member could be taken for it */
export async function saveOwner(db: Db, name: string): Promise<NewOwner> {
  if ((await findMember(db, name)) === null) await requireTellable(db, name);
  const password = randomBytes(12).toString("base64url");
  const id = await saveMember(db, name, await hashPassword(password), "owner");
  await endEverythingOf(db, id, true);
  await dropSecondFactor(db, id);
  await insertAudit(db, { actor: SERVER_PROGRAM, action: "owner reset", object: name, before: null, after: null });
  return { owner: name, password };
}

/** @throws Error where a new member's name cannot be told apart from another one, or holds what nobody sees */
export async function requireTellable(db: Db, name: string): Promise<void> {
  const { error } = memberName.label("name").validate(name);
  if (error) throw new Error(`“${name}” cannot be a member's name: ${error.message}. Nothing was changed.`);
  const alike = await findLookAlike(db, name);
  if (alike !== null) throw new Error(`The member ${alike} looks like ${name}. Nothing was changed.`);
}
