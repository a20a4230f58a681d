/** Passwords: argon2id (RFC 9106), a bounded number at a time because each one takes 19 MiB and a core. */

import { RelayError } from "@bold-relay/core";
import { hash, verify } from "@node-rs/argon2";

/** The library's number for argon2id. */
const ARGON2ID = 2;

/** The least that OWASP advises for argon2id: 19 MiB, two passes. */
const COST = { algorithm: ARGON2ID, memoryCost: 19_456, timeCost: 2, parallelism: 1 };
const MOST_AT_ONCE = 2;
const MOST_WAITING = 20;

let running = 0;
const waiting: (() => void)[] = [];

/** @throws RelayError service-busy when too many wait already */
export function hashPassword(password: string): Promise<string> {
  return inTurn(() => hash(password, COST));
}

/** Compared when no member has the name, so that a wrong name takes as long as a wrong password. */
const nobody = hash("nobody has this password", COST);

/** @throws RelayError service-busy when too many sign-ins wait already */
export async function passwordMatches(passwordHash: string | null, password: string): Promise<boolean> {
  const known = passwordHash ?? (await nobody);
  return (await inTurn(() => verify(known, password))) && passwordHash !== null;
}

async function inTurn<Result>(work: () => Promise<Result>): Promise<Result> {
  await takeTurn();
  try {
    return await work();
  } finally {
    running -= 1;
    waiting.shift()?.();
  }
}

async function takeTurn(): Promise<void> {
  if (waiting.length >= MOST_WAITING) throw new RelayError("service-busy", { why: "Too many sign-ins at once" });
  while (running >= MOST_AT_ONCE) await new Promise<void>((resolve) => waiting.push(resolve));
  running += 1;
}
