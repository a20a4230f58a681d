/** The lamp mark: lit, unlit, or hatched when nobody knows. A word always stands beside it. */
import { useId } from "react";

/**
 * @param on null: nobody knows
 * @param colours its own, of a lamp that has one, or of a string of lamps; none: signal yellow
 */
export function Lamp({ on, colours = [] }: { on: boolean | null; colours?: readonly string[] }) {
  const hatch = useId();
  const shown = colours.slice(0, MOST_SHOWN);
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true" className="shrink-0">
      {on && (
        <>
          <circle cx="12" cy="12" r="12" fill="var(--color-lamp-ring)" />
          <circle
            cx="12"
            cy="12"
            r="8.5"
            fill={colours[0] ?? "var(--color-lamp)"}
            stroke="var(--color-soft)"
            strokeWidth={colours.length > 0 ? 1 : 0}
          />
          {shown.length > 1 &&
            shown.map((colour, index) => (
              <path key={sector(index, shown.length)} d={sector(index, shown.length)} fill={colour} />
            ))}
        </>
      )}
      {on === false && <circle cx="12" cy="12" r="8" fill="none" stroke="var(--color-soft)" strokeWidth="1.5" />}
      {on === null && (
        <>
          <pattern id={hatch} width="4" height="4" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="1" x2="1" y1="0" y2="4" stroke="var(--color-soft)" strokeWidth="1.5" />
          </pattern>
          <circle cx="12" cy="12" r="8" fill={`url(#${hatch})`} stroke="var(--color-soft)" strokeWidth="1" />
        </>
      )}
    </svg>
  );
}

/** More sectors than these nobody can tell apart. */
const MOST_SHOWN = 6;
const RADIUS = 8;

/** One of so many equal sectors of the lamp, from the top, clockwise. */
function sector(index: number, count: number): string {
  const at = (share: number) => {
    const angle = 2 * Math.PI * share;
    return `${(12 + RADIUS * Math.sin(angle)).toFixed(2)} ${(12 - RADIUS * Math.cos(angle)).toFixed(2)}`;
  };
  return `M12 12 L${at(index / count)} A${RADIUS} ${RADIUS} 0 0 1 ${at((index + 1) / count)} Z`;
}
