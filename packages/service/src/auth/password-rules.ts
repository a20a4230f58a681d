/** What a password must be: long, not guessed soon, not the one before. */
import { RelayError } from "@bold-relay/core";
import type { ZxcvbnFactory } from "@zxcvbn-ts/core";
import { passwordMatches } from "./password.ts";

const PASSWORD_MIN = 12;
/** Of 0 to 4: 3 holds against guessing offline for a while. */
const LEAST_SCORE = 3;

let estimator: Promise<ZxcvbnFactory> | null = null;

/** Its lists of words take 10 MB, and passwords are rarely given. */
function loadEstimator(): Promise<ZxcvbnFactory> {
  estimator ??= Promise.all([import("@zxcvbn-ts/core"), import("@zxcvbn-ts/language-common")]).then(
    ([{ ZxcvbnFactory }, { dictionary, adjacencyGraphs }]) =>
      new ZxcvbnFactory({ dictionary, graphs: adjacencyGraphs, maxLength: 100 }),
  );
  return estimator;
}

/**
 * @param before the hash of the one before; null: there is none
 * @throws RelayError weak-password with what is wrong with it
 */
export async function requireGoodPassword(password: string, name: string, before: string | null): Promise<void> {
  const weak = (why: string) => new RelayError("weak-password", { why });
  if ([...password].length < PASSWORD_MIN) throw weak(`A password has at least ${PASSWORD_MIN} characters`);
  const { score } = (await loadEstimator()).check(password, [
    ...name.split(/\s+/),
    name,
    "bold",
    "relay",
    "bold relay",
  ]);
  if (score < LEAST_SCORE)
    throw weak("This password would be guessed soon: take several words that do not belong together");
  if (before !== null && (await passwordMatches(before, password))) throw weak("That is the password of before");
}
