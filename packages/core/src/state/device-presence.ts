/** Whether a device is on the broker, as far as anybody knows: one meaning for every list, count and page. Pure. */

/**
 * - online, offline: by its own word, or by its last will
 * - never-heard: it has a topic for this, and has never said anything there
 * - not-watched: its profile has no such topic, so nobody can know
 */
export const DEVICE_PRESENCES = ["online", "offline", "never-heard", "not-watched"] as const;
export type DevicePresence = (typeof DEVICE_PRESENCES)[number];

/**
 * @param up its last word; null: it never said
 * @param topic where it says so; null: its profile has none
 */
export function devicePresence(up: boolean | null, topic: string | null): DevicePresence {
  if (up !== null) return up ? "online" : "offline";
  return topic === null ? "not-watched" : "never-heard";
}

/** @example presenceWords("never-heard") // → "never heard" */
export function presenceWords(presence: DevicePresence): string {
  return presence.replace("-", " ");
}

/**
 * Devices by their presence, without those of which there are none.
 *
 * @example countWords({ online: 18, offline: 0, "never-heard": 240, "not-watched": 0 })
 *   // → "18 online, 240 never heard"
 */
export function countWords(counts: Readonly<Record<DevicePresence, number>>): string {
  const some = DEVICE_PRESENCES.filter((presence) => counts[presence] > 0);
  return some.map((presence) => `${counts[presence]} ${presenceWords(presence)}`).join(", ");
}
