/** Whether the broker permits what was subscribed to. */

/** Filters that a message names. */
const MOST_SHOWN = 5;

/**
 * @param granted of each filter its reason code (MQTT 5, 3.9.3)
 * @throws Error that names the filters that were refused
 */
export function requireGranted(filters: readonly string[], granted: readonly number[]): void {
  const denied = filters.filter((_, index) => (granted[index] ?? 128) >= 128);
  if (denied.length === 0) return;
  const more = denied.length > MOST_SHOWN ? ` and ${denied.length - MOST_SHOWN} more` : "";
  throw new Error(`no permission to subscribe to ${denied.slice(0, MOST_SHOWN).join(", ")}${more}`);
}
