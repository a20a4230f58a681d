/** The values that a device may have words of its own for. */

/** A single thing in a payload. */
export type Scalar = string | number | boolean;

export const WORD_VALUES = ["on", "off", "pulse", "stop"] as const;
export type WordValue = (typeof WORD_VALUES)[number];

/** What the device writes instead of on, off, pulse and stop. One that is left out is written as it is. */
export type Words = Partial<Record<WordValue, Scalar>>;
