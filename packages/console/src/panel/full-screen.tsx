/** For a tablet at a wall: the page alone on the screen, and the screen stays on. */
import { useEffect, useState } from "react";
import { Button } from "../parts/button.tsx";

export function FullScreen() {
  const [isFull, setFull] = useState(document.fullscreenElement !== null);
  useEffect(() => {
    const note = () => setFull(document.fullscreenElement !== null);
    document.addEventListener("fullscreenchange", note);
    return () => document.removeEventListener("fullscreenchange", note);
  }, []);
  useEffect(() => (isFull ? keepScreenOn() : undefined), [isFull]);
  if (!document.fullscreenEnabled) return null;
  return (
    <Button
      onClick={() => void (isFull ? document.exitFullscreen() : document.documentElement.requestFullscreen())}
      className="ml-auto h-10 rounded-key border border-soft px-4 font-semibold text-note hover:border-act hover:text-act"
    >
      {isFull ? "Leave full screen" : "Full screen"}
    </Button>
  );
}

/** A browser that cannot, or a battery that is low, lets the screen go off as ever. @returns ends it */
function keepScreenOn(): () => void {
  let isOver = false;
  let lock: WakeLockSentinel | null = null;
  const take = async () => {
    if (isOver || document.visibilityState !== "visible") return;
    lock = (await navigator.wakeLock?.request("screen").catch(() => null)) ?? null;
    if (isOver) await lock?.release();
  };
  void take();
  // It ends with each time that the page is not seen.
  document.addEventListener("visibilitychange", take);
  return () => {
    isOver = true;
    document.removeEventListener("visibilitychange", take);
    void lock?.release();
  };
}
