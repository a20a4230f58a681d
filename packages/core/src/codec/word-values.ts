/** The values that a device may have words of its own for. */

/** A single thing in a payload. */
export type Scalar = string | number | boolean;

/**
 * - on, off, pulse, stop: what is told and reported
 * - open, shut: the ends of what travels; where a device has words for them, it is told these in place of a number
 * - moving: reported only, on the way to one of them
 */
export const WORD_VALUES = ["on", "off", "pulse", "stop", "open", "shut", "moving"] as const;
export type WordValue = (typeof WORD_VALUES)[number];

/**
 * What the device writes instead of these. One that is left out is written as it is. Of several words for one value the first is
 * told, and all are read.
 */
export type Words = Partial<Record<WordValue, Scalar | readonly Scalar[]>>;
