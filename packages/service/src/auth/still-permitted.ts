/**
 * The last word on a right: it is looked at where its effect is stored, in the same transaction. Whoever takes it away before that is obeyed,
 * and whoever does so meanwhile waits until the effect is there: nothing is stored for somebody whose right was seen to be gone.
 */
import { RelayError } from "@bold-relay/core";
import { findKey, findSession, holdIdentity } from "../store/identities.ts";
import type { Db } from "../store/pool.ts";
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
