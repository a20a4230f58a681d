/**
 * Puts on record who did what: a row of the audit log, and a structured log line for whoever watches the machine. Secrets, keys
 * and passwords are in neither.
 */

import type { AuditAction } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import { type Actor, type AuditEntry, insertAudit } from "../store/audit.ts";
import type { Db, Pool } from "../store/pool.ts";
import type { Admitted } from "./caller.ts";
import { whilePermitted } from "./still-permitted.ts";

/** One refusal of a kind is put on record, then none for this long: a loop at a closed door must not fill the log, ms. */
const QUIET_MS = 60_000;
const MOST_REMEMBERED = 10_000;

type AnyRecord = Pick<AuditEntry, "actor" | "action" | "object"> & Partial<AuditEntry>;
type AuditRecord = AnyRecord & { readonly action: AuditAction };

export class AuditLog {
  private readonly pool: Pool;
  private readonly log: Log;
  private readonly saidAt = new Map<string, number>();

  constructor(pool: Pool, log: Log) {
    this.pool = pool;
    this.log = log;
  }

  /** @param db the transaction of the change: it is on record exactly if the change is */
  async record(entry: AuditRecord, db: Db = this.pool): Promise<void> {
    await this.write(entry, db);
  }

  /** What is done at once after it is on record. @throws RelayError as `holdRight` does: then it is not to be done */
  recordPermitted(caller: Admitted, entry: Omit<AuditRecord, "actor">): Promise<void> {
    return whilePermitted(this.pool, caller, (db) => this.record({ ...entry, actor: caller }, db));
  }

  private async write(entry: AnyRecord, db: Db): Promise<void> {
    const { actor, action, object, before = null, after = null } = entry;
    await insertAudit(db, { actor: actorOf(actor), action, object, before, after });
    this.log.info({ audit: { ...actorOf(actor), action, object } }, action);
  }

  /** What did not happen, because somebody may not do it or could not show who they are. Repeated ones within a minute are one. */
  recordRefusal(actor: Actor, action: AuditAction, object: string): void {
    const now = performance.now();
    const what = JSON.stringify([actor.memberId ?? actor.name, actor.keyId, actor.address, action, object]);
    if (now - (this.saidAt.get(what) ?? Number.NEGATIVE_INFINITY) < QUIET_MS) return;
    if (this.saidAt.size >= MOST_REMEMBERED) this.saidAt.clear();
    this.saidAt.set(what, now);
    this.write({ actor, action, object }, this.pool).catch((error: unknown) => {
      this.log.warn({ err: error, audit: { ...actorOf(actor), action, object } }, "a refusal is not in the audit log");
    });
  }
}

/** Callers have more than what goes on record. */
function actorOf({ name, memberId, keyId, address }: Actor): Actor {
  return { name, memberId, keyId, address };
}

/** Who could not show who they are. @param address where the call came from; null: not known */
export function unknownCaller(address: string | null): Actor {
  return { name: "An unknown caller", memberId: null, keyId: null, address };
}

/** Who calls an inlet. @param keyId the key that was shown; null: none */
export function inletCaller(address: string, keyId: number | null): Actor {
  return keyId === null ? unknownCaller(address) : { name: "A caller with a key", memberId: null, keyId, address };
}

/** Whoever has the machine may do everything; the audit log has it all the same. */
export const SERVER_PROGRAM: Actor = { name: "server program", memberId: null, keyId: null, address: null };
