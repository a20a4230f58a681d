/** A commissioning beside the one before it: what is otherwise now? */
import type { CommissioningStep } from "./step.ts";

type Standing = Pick<CommissioningStep, "name" | "state">;

const DECIDED: readonly CommissioningStep["state"][] = ["passed", "failed", "skipped"];

/**
 * What each step was last time, by its name, where it was otherwise.
 *
 * @example a step that failed and now passes → { "channel porch": "failed" }
 */
export function stepsBefore(
  steps: readonly Standing[],
  before: readonly Standing[],
): Readonly<Record<string, CommissioningStep["state"]>> {
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
