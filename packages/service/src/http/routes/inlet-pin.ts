/** The PIN in an inlet's settings: kept as a hash, and never shown. */
import { type InletDescription, RelayError } from "@bold-relay/core";
import { hashPassword } from "../../auth/password.ts";

/** A PIN is never kept as it is; one that is not given anew stays. */
export async function withPinHash(
  inlet: InletDescription,
  before: InletDescription | undefined,
): Promise<InletDescription> {
  const { pin, pinHash: _, ...settings } = (inlet.settings ?? {}) as Record<string, unknown>;
  const kept = before?.settings?.pinHash;
  if (kept !== undefined && pin === undefined && before?.site !== inlet.site)
    throw new RelayError("bad-request", { why: "A PIN does not move to another site with its inlet: give a new one" });
  const pinHash = typeof pin === "string" ? await hashPassword(pin) : kept;
  if (pinHash === undefined) return inlet.settings === undefined ? inlet : { ...inlet, settings };
  return { ...inlet, settings: { ...settings, pinHash } };
}

/** As it may be shown. */
export function withoutPin(inlet: InletDescription): InletDescription {
  if (inlet.settings?.pinHash === undefined) return inlet;
  const { pinHash: _, ...settings } = inlet.settings;
  return { ...inlet, settings };
}
