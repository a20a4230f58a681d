/** Before another instance is handed anything it shows that it is one of ours: requests carry keys. */
import { RelayError } from "@bold-relay/core";
import type { Log } from "../platform/log.ts";
import type { Instance } from "../store/leases.ts";
import type { PeerProof } from "./peer-proof.ts";

/** Where an instance proves that it is one. */
export const PROOF_PATH = "/health/instance";
const PROOF_WITHIN_MS = 2_000;

/**
 * @param withinMs how long it may take
 * @returns whether it has; false: nobody is there, or it is no instance yet
 * @throws RelayError service-busy when something else answers there
 */
export async function provePeer(
  { address, name }: Instance,
  proof: PeerProof,
  log: Log,
  withinMs = PROOF_WITHIN_MS,
): Promise<boolean> {
  const challenge = proof.newChallenge();
  const url = new URL(`${PROOF_PATH}?challenge=${challenge}`, address);
  let answer: unknown;
  try {
    const response = await fetch(url, { redirect: "error", signal: AbortSignal.timeout(withinMs) });
    // It is one that has just been started, or is about to stop.
    if (!response.ok) return false;
    ({ answer } = (await response.json()) as { answer?: unknown });
  } catch {
    return false;
  }
  if (proof.isAnswer(challenge, answer)) return true;
  log.error({ address, leader: name }, "what answers where the lanes are held is no instance of this installation");
  throw changingHands();
}

export function changingHands(): RelayError {
  return new RelayError("service-busy", { why: "The lanes are changing from one instance to another" });
}
