/**
 * A member's own password, asked for again before what an open page must not do by itself. Tries are counted before the password
 * is looked at, as at signing in, and each failure is in the audit log: whoever sits at somebody's open page cannot guess.
 */
import { RelayError } from "@bold-relay/core";
import { findMember, type MemberRecord } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { Attempts } from "./attempts.ts";
import type { AuditLog } from "./audit-log.ts";
import { type Admitted, requireSession } from "./caller.ts";
import { passwordMatches } from "./password.ts";

export class PasswordAgain {
  private readonly pool: Pool;
  private readonly audit: AuditLog;
  private readonly attempts = new Attempts();

  constructor(pool: Pool, audit: AuditLog) {
    this.pool = pool;
    this.audit = audit;
  }

  /** Counts a code that a signed-in member shows: six digits are soon guessed. @throws RelayError too-many-attempts */
  beginCode(caller: Admitted): { succeeded(): void } {
    return this.attempts.beginSignedIn(caller.memberId, "code");
  }

  /** @throws RelayError not-permitted with a key, wrong-own-password, too-many-attempts or service-busy */
  async require(caller: Admitted, password: string): Promise<MemberRecord> {
    requireSession(caller);
    const attempt = this.attempts.beginSignedIn(caller.memberId);
    const member = await findMember(this.pool, caller.name);
    if (!member || !(await passwordMatches(member.passwordHash, password))) {
      this.audit.recordRefusal(caller, "password asked again: wrong", caller.name);
      throw new RelayError("wrong-own-password");
    }
    attempt.succeeded();
    return member;
  }
}
