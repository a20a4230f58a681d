/** Colours as hue, saturation and brightness, whole numbers of a device. Pure. */
import { colourOf, colourParts } from "../channel/colour.ts";
import type { Colour } from "../channel/value.ts";

export interface HsvForm {
  /** What the device counts to: a full turn of hue, and full saturation and brightness. Default [360, 100]. */
  readonly hsvRange?: readonly [hue: number, part: number];
}

const RANGE = [360, 100] as const;

/** @example hsvOf("#ff0000", {}) // → [0, 100, 100] */
export function hsvOf(colour: Colour, { hsvRange = RANGE }: HsvForm): [number, number, number] {
  const [turn, full] = hsvRange;
  const parts = colourParts(colour).map((part) => part / 255);
  const [red = 0, green = 0, blue = 0] = parts;
  const most = Math.max(...parts);
  const span = most - Math.min(...parts);
  const sixth =
    span === 0
      ? 0
      : most === red
        ? ((green - blue) / span + 6) % 6
        : most === green
          ? (blue - red) / span + 2
          : (red - green) / span + 4;
  const hue = Math.round((sixth / 6) * turn) % turn;
  return [hue, Math.round((most === 0 ? 0 : span / most) * full), Math.round(most * full)];
}

/** @returns null when a part is no whole number of its range */
export function colourFromHsv(parts: readonly (number | null)[], { hsvRange = RANGE }: HsvForm): Colour | null {
  const [turn, full] = hsvRange;
  const [hue, saturation, brightness] = parts;
  const isPart = (part: number | null | undefined, most: number): part is number =>
    typeof part === "number" && Number.isInteger(part) && part >= 0 && part <= most;
  if (!isPart(hue, turn) || !isPart(saturation, full) || !isPart(brightness, full)) return null;
  const [sixth, value] = [((hue / turn) * 6) % 6, brightness / full];
  const channel = (shift: number) => {
    const at = (shift + sixth) % 6;
    return Math.round(255 * (value - value * (saturation / full) * Math.max(0, Math.min(at, 4 - at, 1))));
  };
  return colourOf([channel(5), channel(3), channel(1)]);
}
