/** The newest messages under a filter, live; gathered for a frame, so that a busy broker does not freeze the page. */
import { ProblemError, type WireEvent, type WireMessageView, type WireQuery } from "@bold-relay/api";
import { useEffect, useRef, useState } from "react";
import { client } from "../../api/client.ts";

export type WireLine = { readonly key: number } & (
  | { readonly message: WireMessageView; readonly note: null }
  | { readonly message: null; readonly note: string }
);

/** As many as can be looked back through. */
const KEPT = 300;
const FRAME_MS = 100;
const AGAIN_MS = 2_000;

export function useWire(filter: string, all: boolean, paused: boolean) {
  const [lines, setLines] = useState<readonly WireLine[]>([]);
  const [masks, setMasks] = useState(false);
  const [trouble, setTrouble] = useState<string | null>(null);
  const held = useRef(paused);
  held.current = paused;

  useEffect(() => {
    const stop = new AbortController();
    let fresh: WireLine[] = [];
    let number = 0;
    setLines([]);
    const add = (line: { message: WireMessageView; note: null } | { message: null; note: string }) => {
      number += 1;
      fresh.push({ ...line, key: number });
    };
    const onEvent = (event: WireEvent) => {
      if (event.name === "hello") setMasks(event.data.masks);
      else if (event.name === "message") add({ message: event.data, note: null });
      else if (event.name === "skipped")
        add({ message: null, note: `${event.data.count} more than can be read were left out` });
      else if (event.name === "missing") add({ message: null, note: missingNote(event.data.instances) });
      else add({ message: null, note: `The wire ended: ${event.data.why}` });
    };
    const frame = setInterval(() => {
      if (fresh.length === 0 || held.current) return;
      const gathered = fresh.reverse();
      fresh = [];
      setLines((before) => [...gathered, ...before].slice(0, KEPT));
    }, FRAME_MS);
    void keepListening({ filter, all }, onEvent, setTrouble, stop.signal);
    return () => {
      stop.abort();
      clearInterval(frame);
    };
  }, [filter, all]);

  return { lines, masks, trouble };
}

/** Comes back for as long as it takes, unless the service says that this filter will never do. */
async function keepListening(
  query: WireQuery,
  onEvent: (event: WireEvent) => void,
  tell: (trouble: string | null) => void,
  signal: AbortSignal,
): Promise<void> {
  while (!signal.aborted) {
    const error: unknown = await client.wire(query, onEvent, signal).then(
      () => null,
      (cause: unknown) => cause,
    );
    if (signal.aborted) return;
    tell(error instanceof Error ? error.message : null);
    if (error instanceof ProblemError && error.problem.status < 500) return;
    await new Promise((resolve) => setTimeout(resolve, AGAIN_MS));
  }
}

function missingNote(instances: readonly string[]): string {
  if (instances.length === 0) return "All instances answer again: all messages are shown";
  return `No answer from ${instances.join(", ")}: commands published from there are not shown`;
}
