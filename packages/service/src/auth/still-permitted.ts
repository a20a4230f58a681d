/**
 * The last look at a right: in the transaction that stores its effect. Where the right ended before that, nothing is stored. A right that is
 * taken away meanwhile ends once the effect is stored.
 */
import { RelayError } from "@bold-relay/core";
import { findKey, findSession, holdIdentity } from "../store/identities.ts";
import { type Db, inTransaction, type Pool, type PoolClient } from "../store/pool.ts";
import { type Admitted, type Caller, callerOf } from "./caller.ts";

/** Everything that a caller's rights depend on, in one text. */
export function rightsOf({ standing, mustEnrol }: Pick<Caller, "standing" | "mustEnrol">): string {
  return JSON.stringify([standing, mustEnrol]);
}

/**
 * @param db of a transaction; or the pool, where only a caller is to be refused as early as can be
 * @throws RelayError wrong-key, not-signed-in, or not-permitted where they may do anything else than when they were admitted
 */
export async function requireStillPermitted(db: Db, caller: Admitted): Promise<void> {
  const { by, tokenSha256, address, name } = caller;
  const identity = by === "key" ? await findKey(db, tokenSha256) : await findSession(db, tokenSha256);
  if (!identity) throw new RelayError(by === "key" ? "wrong-key" : "not-signed-in");
  if (rightsOf(callerOf(identity, { address, agent: undefined })) === rightsOf(caller)) return;
  throw new RelayError("not-permitted", { why: `What ${name} may do was changed just now` });
}

/** The same in the transaction that stores an effect: until it ends nobody takes the right away. */
export async function holdRight(db: Db, caller: Admitted): Promise<void> {
  await holdIdentity(db, caller);
  await requireStillPermitted(db, caller);
}

/** Runs a piece of work in a transaction in which the caller keeps the right. @throws RelayError as `holdRight` does */
export function whilePermitted<Result>(
  pool: Pool,
  caller: Admitted,
  work: (db: PoolClient) => Promise<Result>,
): Promise<Result> {
  return inTransaction(pool, async (db) => {
    await holdRight(db, caller);
    return work(db);
  });
}
