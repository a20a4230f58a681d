/** Alerts of instances that run beside each other: who is missing takes safety with it, and nothing else shows that. */
import { isAlive } from "../report/cluster.ts";
import { DAY_MS } from "../time.ts";
import type { InstanceInput } from "./input.ts";
import type { Alert } from "./kind.ts";

/** One for each that is missing. */
export function instanceAlerts(instances: readonly InstanceInput[], now: number): Alert[] {
  const left = instances.filter(isAlive).length;
  return instances
    .filter((one) => !isAlive(one) && one.seenMs < DAY_MS)
    .map(({ name, seenMs, startedAt }) => ({
      kind: "instance-missing",
      subject: name,
      site: null,
      title: `The instance ${name} is missing`,
      text: `It is not seen any more, and did not stop in order. ${left === 1 ? "One instance is left: another failure stops the service." : `${left} instances are left.`} Look at its machine. If it was removed on purpose, the alert ends after a day.`,
      mark: String(startedAt),
      since: now - seenMs,
    }));
}
