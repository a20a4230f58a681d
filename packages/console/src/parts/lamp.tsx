/** The lamp mark: lit, unlit, or hatched when nobody knows. A word always stands beside it. */
import { useId } from "react";

/**
 * @param on null: nobody knows
 * @param colour its own, of a lamp that has one; null: signal yellow
 */
export function Lamp({ on, colour = null }: { on: boolean | null; colour?: string | null }) {
  const hatch = useId();
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true" className="shrink-0">
      {on && (
        <>
          <circle cx="12" cy="12" r="12" fill="var(--color-lamp-ring)" />
          <circle
            cx="12"
            cy="12"
            r="8.5"
            fill={colour ?? "var(--color-lamp)"}
            stroke="var(--color-soft)"
            strokeWidth={colour ? 1 : 0}
          />
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
