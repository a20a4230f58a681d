/** The time, renewed often enough for "2 min ago" to be right. */
import { useEffect, useState } from "react";

export function useNow(everyMs = 5_000): number {
  const [now, setNow] = useState(Date.now);
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), everyMs);
    return () => clearInterval(timer);
  }, [everyMs]);
  return now;
}
