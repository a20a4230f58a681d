/** The routes of an inlet in order: moved by keys, or dragged. The first that fits counts. */
import type { Route } from "@bold-relay/core";
import { MovableList } from "../../parts/movable-list.tsx";

interface RouteOrderProps {
  readonly routes: readonly Route[];
  /** Places from 0. */
  readonly onMove: (from: number, to: number) => void;
}

export function RouteOrder({ routes, onMove }: RouteOrderProps) {
  if (routes.length < 2) return null;
  const names = routes.map(({ name }, at) => name ?? `Route ${at + 1}`);
  return (
    <details className="mb-4 text-note">
      <summary className="cursor-pointer text-act">Order of routes</summary>
      <MovableList label="Order of routes" names={names} onMove={onMove} />
    </details>
  );
}
