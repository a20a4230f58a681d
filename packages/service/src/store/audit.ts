/** The audit log: who did what to what, and whose word it was. Rows are only ever added. */
import { withoutSecrets, withoutSecretsIn } from "@bold-relay/core";
import { newId } from "../platform/id.ts";
import type { Db } from "./pool.ts";

/** Whose word it was. */
export interface Actor {
  /** As it is shown. */
  readonly name: string;
  /** null: no member, but the server program, or somebody who could not show who they are. */
  readonly memberId: number | null;
  /** The key that was shown; null: a session, or neither. */
  readonly keyId: number | null;
  /** Where the call came from; null: from this machine. */
  readonly address: string | null;
}

export interface AuditEntry {
  readonly actor: Actor;
  /** What was done: "member added". */
  readonly action: string;
  /** To whom or what. */
  readonly object: string;
  readonly before: object | null;
  readonly after: object | null;
}

export interface AuditRecord extends Omit<AuditEntry, "actor"> {
  readonly id: string;
  /** ms since 1970. */
  readonly at: number;
  readonly actor: string;
  readonly keyId: number | null;
  readonly address: string | null;
}

export async function insertAudit(db: Db, { actor, action, object, before, after }: AuditEntry): Promise<void> {
  const who = [actor.name, actor.memberId, actor.keyId, actor.address];
  await db.query(
    `insert into audit (id, actor, member_id, key_id, address, action, object, before, after)
     values ($1, $2, $3, $4, $5, $6, $7, $8, $9)`,
    [newId(), ...who, action, withoutSecrets(object), withoutSecretsIn(before), withoutSecretsIn(after)],
  );
}

/** Newest first. */
export async function findAudit(db: Db, before: string | null, limit: number): Promise<AuditRecord[]> {
  const { rows } = await db.query<AuditRecord>(
    `select id, extract(epoch from at)::float8 * 1000 as at, actor, key_id as "keyId", address, action, object, before, after
     from audit where $1::uuid is null or id < $1 order by id desc limit $2`,
    [before, limit],
  );
  return rows;
}
