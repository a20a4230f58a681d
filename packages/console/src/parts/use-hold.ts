/**
 * Hold-to-run: what is asked goes on for as long as the key is held, and ends when finger, pointer, keyboard focus, page
 * or connection goes. The device has a time of its own for each asking, so what never arrives ends too.
 */
import { type KeyboardEvent, type PointerEvent, useEffect, useRef, useState } from "react";

export interface Holding {
  /** Asks for the run, once; whether it was taken. */
  readonly run: () => Promise<boolean>;
  /** Ends it. */
  readonly stop: () => void;
  /** How often it is asked for anew while it is held, ms; shorter than the device's own time. */
  readonly renewMs: number;
}

/** One press, from the moment the finger comes down until it has gone. */
interface Press {
  over: boolean;
  timer: ReturnType<typeof setTimeout> | undefined;
}

/** What a held key listens to. */
export function useHold({ run, stop, renewMs }: Holding) {
  const [held, setHeld] = useState(false);
  const press = useRef<Press | null>(null);

  async function renew(mine: Press): Promise<void> {
    const askedAt = performance.now();
    const taken = await run();
    // It was still on its way when the hand let go: whichever came first, the last word is stop.
    if (mine.over) return stop();
    if (!taken) return end();
    mine.timer = setTimeout(() => void renew(mine), Math.max(0, askedAt + renewMs - performance.now()));
  }

  function begin(): void {
    if (press.current) return;
    const mine: Press = { over: false, timer: undefined };
    press.current = mine;
    setHeld(true);
    void renew(mine);
  }

  function end(): void {
    const mine = press.current;
    if (!mine) return;
    press.current = null;
    mine.over = true;
    clearTimeout(mine.timer);
    setHeld(false);
    stop();
  }

  const latestEnd = useRef(end);
  latestEnd.current = end;
  useEffect(() => {
    const gone = () => latestEnd.current();
    const hidden = () => document.visibilityState === "hidden" && gone();
    for (const event of ["blur", "pagehide", "offline"]) window.addEventListener(event, gone);
    document.addEventListener("visibilitychange", hidden);
    return () => {
      for (const event of ["blur", "pagehide", "offline"]) window.removeEventListener(event, gone);
      document.removeEventListener("visibilitychange", hidden);
      gone();
    };
  }, []);

  const isKey = ({ key }: KeyboardEvent) => key === " " || key === "Enter";
  return {
    held,
    listeners: {
      onPointerDown: (event: PointerEvent<HTMLButtonElement>) => {
        if (event.button !== 0) return;
        event.currentTarget.setPointerCapture(event.pointerId);
        begin();
      },
      onPointerUp: end,
      onPointerCancel: end,
      onLostPointerCapture: end,
      onBlur: end,
      onKeyDown: (event: KeyboardEvent) => {
        if (!isKey(event)) return;
        // Else the browser makes a click of it.
        event.preventDefault();
        if (!event.repeat) begin();
      },
      onKeyUp: (event: KeyboardEvent) => {
        if (!isKey(event)) return;
        event.preventDefault();
        end();
      },
      // A long touch opens a menu otherwise, and takes the finger away.
      onContextMenu: (event: { preventDefault(): void }) => event.preventDefault(),
      // Of a pointer or a key nothing is left to do; what speaks the page to people can only click: one press of the
      // device's own time.
      onClick: (event: { detail: number }) => {
        if (event.detail === 0) void run();
      },
    },
  };
}
