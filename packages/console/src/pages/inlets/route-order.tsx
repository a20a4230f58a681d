/** The routes of an inlet in order: moved by keys, or dragged. The first that fits counts. */
import type { Route } from "@bold-relay/core";
import { useState } from "react";
import { Button } from "../../parts/button.tsx";
import { QUIET } from "../../parts/form.tsx";

interface RouteOrderProps {
  readonly routes: readonly Route[];
  /** Places from 0. */
  readonly onMove: (from: number, to: number) => void;
}

export function RouteOrder({ routes, onMove }: RouteOrderProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  if (routes.length < 2) return null;
  const drop = (to: number) => {
    if (dragged !== null && dragged !== to) onMove(dragged, to);
    setDragged(null);
  };
  return (
    <details className="mb-4 text-note">
      <summary className="cursor-pointer text-act">Order of routes</summary>
      <ol aria-label="Order of routes" className="mt-2 border-hairline border-t">
        {routes.map((route, at) => (
          <li
            // biome-ignore lint/suspicious/noArrayIndexKey: two routes may be the same
            key={at}
            draggable
            onDragStart={() => setDragged(at)}
            onDragOver={(event) => event.preventDefault()}
            onDrop={() => drop(at)}
            className={`flex items-baseline gap-3 border-hairline border-b py-1.5 ${dragged === at ? "opacity-50" : ""}`}
          >
            <span className="w-6 text-right text-soft">{at + 1}</span>
            <span className="grow truncate">{nameOf(route, at)}</span>
            <Button
              disabled={at === 0}
              onClick={() => onMove(at, at - 1)}
              className={`${QUIET} disabled:opacity-40`}
              aria-label={`Move up ${nameOf(route, at)}`}
            >
              Move up
            </Button>
            <Button
              disabled={at === routes.length - 1}
              onClick={() => onMove(at, at + 1)}
              className={`${QUIET} disabled:opacity-40`}
              aria-label={`Move down ${nameOf(route, at)}`}
            >
              Move down
            </Button>
          </li>
        ))}
      </ol>
    </details>
  );
}

function nameOf({ name }: Route, at: number): string {
  return name ?? `Route ${at + 1}`;
}
