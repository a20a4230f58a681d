/** The lamp mark: lit, unlit, or hatched when nobody knows. A word always stands beside it. */
import type { Value } from "@bold-relay/core";
import { useId } from "react";

export function Lamp({ value }: { value: Value | null }) {
  const hatch = useId();
  return (
    <svg width="24" height="24" viewBox="0 0 24 24" aria-hidden="true" className="shrink-0">
      {value === "on" && (
        <>
          <circle cx="12" cy="12" r="12" fill="var(--color-lamp-ring)" />
          <circle cx="12" cy="12" r="8.5" fill="var(--color-lamp)" />
        </>
      )}
      {value === "off" && <circle cx="12" cy="12" r="8" fill="none" stroke="var(--color-soft)" strokeWidth="1.5" />}
      {value === null && (
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

export function lampWord(value: Value | null): string {
  if (value === null) return "Unknown";
  return value === "on" ? "On" : "Off";
}
