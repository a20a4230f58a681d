/** A setpoint, put back into the words that ask for it. */
import { isColour, isPattern, type Value } from "../channel/value.ts";

/**
 * What asks for just this value, whatever was asked at first.
 *
 * @example setpointAsk("#ff8800") // → { action: "colour", value: "#ff8800" }
 * @example setpointAsk("off") // → { action: "off" }
 */
export function setpointAsk(to: Value): { readonly action: string; readonly value?: number | string } {
  if (typeof to === "number") return { action: "level", value: to };
  if (isPattern(to)) return { action: "pattern", value: to };
  return isColour(to) ? { action: "colour", value: to } : { action: to };
}
