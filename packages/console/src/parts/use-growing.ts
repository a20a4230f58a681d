/** Draws the first rows at once, and the others in pieces after them, so that a long list never keeps a press waiting. */
import { startTransition, useEffect, useState } from "react";

/** More than a screen of them. */
const FIRST = 12;
const STEP = 24;

/** @returns how many of the rows to draw now; it grows until it is all of them */
export function useGrowing(total: number): number {
  const [count, setCount] = useState(FIRST);
  useEffect(() => {
    if (count < total) startTransition(() => setCount(count + STEP));
  }, [count, total]);
  return Math.min(count, total);
}
