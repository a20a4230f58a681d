/**
 * What an instance must be before it joins those that run beside each other. One that is not right is refused at its start, with what to
 * change: it would take the lease from another, or lead and fail at what the others could do.
 */
import { createHmac } from "node:crypto";
import { formatDuration, isAlive } from "@bold-relay/core";
import type { PeerProof } from "../peers/peer-proof.ts";
import { PROOF_PATH } from "../peers/prove-peer.ts";
import { databaseNow, findInstances } from "../store/instances.ts";
import type { Instance } from "../store/leases.ts";
import type { Pool } from "../store/pool.ts";

export interface AdmissionDeps {
  readonly instance: Instance;
  /** Of this process. */
  readonly run: string;
  readonly pool: Pool;
  readonly proof: PeerProof;
  readonly secretsKey: Buffer | undefined;
  /** It was told at which address the others reach it; else it is the one that it listens on. */
  readonly isAddressTold: boolean;
}

/** What is handed on between instances is signed with the time; see peer-proof.ts. */
const CLOCK_LIMIT_MS = 30_000;
const ANSWER_WITHIN_MS = 3_000;

/** Tells secrets keys apart, and says nothing about them. */
export function secretsMark(key: Buffer | undefined): string | null {
  return key ? createHmac("sha256", key).update("bold-relay secrets key").digest("hex").slice(0, 16) : null;
}

/** @throws Error with what to change */
export async function requireFit(deps: AdmissionDeps): Promise<void> {
  const { instance, pool, secretsKey, isAddressTold } = deps;
  const { name, address } = instance;
  // A row with the same address is of the run before, unless another process answers there: looked at below.
  const others = (await findInstances(pool)).filter((one) => isAlive(one) && one.address !== address);
  const namesake = others.find((one) => one.name === name);
  // Of two with the same name each would take the lease from the other.
  if (namesake)
    throw new Error(
      `Another instance runs under the name ${name} at ${namesake.address}. Give this one its own: BOLD_RELAY_INSTANCE.`,
    );
  const mark = secretsMark(secretsKey);
  const differing = others.find(({ secretsMark: theirs }) => theirs !== null && theirs !== mark);
  if (differing)
    throw new Error(
      `The instance ${differing.name} runs with ${mark === null ? "a" : "another"} BOLD_RELAY_SECRETS_KEY. Give this one the same: it could not read what is sealed.`,
    );
  if (others.length > 0) await requireClock(pool);
  if (isAddressTold) await requireOwnAddress(deps);
}

async function requireClock(pool: Pool): Promise<void> {
  const asked = Date.now();
  const aheadMs = (asked + Date.now()) / 2 - (await databaseNow(pool));
  if (Math.abs(aheadMs) <= CLOCK_LIMIT_MS) return;
  const how = aheadMs > 0 ? "ahead of" : "behind";
  throw new Error(
    `The clock of this machine is ${formatDuration(Math.abs(aheadMs))} ${how} the database's, and other instances run. Set it by NTP, then start again.`,
  );
}

/** Whoever is at the address must be this very process: requests of others would go astray. */
async function requireOwnAddress({ instance: { address }, run, proof }: AdmissionDeps): Promise<void> {
  const challenge = proof.newChallenge();
  const why = await fetch(new URL(`${PROOF_PATH}?challenge=${challenge}`, address), {
    redirect: "error",
    signal: AbortSignal.timeout(ANSWER_WITHIN_MS),
  })
    .then(async (response) => (await response.json()) as { answer?: unknown; run?: unknown })
    .then(
      (body) => {
        if (!proof.isAnswer(challenge, body.answer)) return "something else answers there";
        return body.run === run ? null : "another instance answers there";
      },
      () => "nothing answers there",
    );
  if (why !== null)
    throw new Error(
      `BOLD_RELAY_ADVERTISE is ${address}, but ${why}. Name the address at which the other instances reach this one.`,
    );
}
