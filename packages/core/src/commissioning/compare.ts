/** A commissioning beside the one before it: what is otherwise now? */
import type { ProofStep } from "./step.ts";

type Standing = Pick<ProofStep, "name" | "state">;

const DECIDED: readonly ProofStep["state"][] = ["passed", "failed", "skipped"];

/**
 * What each step was last time, by its name, where it was otherwise.
 *
 * @example a step that failed and now passes → { "channel porch": "failed" }
 */
export function stepsBefore(
  steps: readonly Standing[],
  before: readonly Standing[],
): Readonly<Record<string, ProofStep["state"]>> {
  const known = new Map(before.map(({ name, state }) => [name, state]));
  return Object.fromEntries(
    steps.flatMap(({ name, state }) => {
      const was = known.get(name);
      return was !== undefined && was !== state && DECIDED.includes(was) && DECIDED.includes(state)
        ? [[name, was] as const]
        : [];
    }),
  );
}
