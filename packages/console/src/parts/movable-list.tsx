/** A list in an order that people choose: moved by keys, or dragged. */
import { useState } from "react";
import { Button } from "./button.tsx";
import { QUIET } from "./form.tsx";

interface MovableListProps {
  readonly label: string;
  /** What stands in each row. */
  readonly names: readonly string[];
  /** Places from 0. */
  readonly onMove: (from: number, to: number) => void;
  /** Left out: none can be removed here. */
  readonly onRemove?: (at: number) => void;
}

export function MovableList({ label, names, onMove, onRemove }: MovableListProps) {
  const [dragged, setDragged] = useState<number | null>(null);
  const drop = (to: number) => {
    if (dragged !== null && dragged !== to) onMove(dragged, to);
    setDragged(null);
  };
  return (
    <ol aria-label={label} className="mt-2 border-hairline border-t">
      {names.map((name, at) => (
        <li
          // biome-ignore lint/suspicious/noArrayIndexKey: two may be the same
          key={at}
          draggable
          onDragStart={() => setDragged(at)}
          onDragOver={(event) => event.preventDefault()}
          onDrop={() => drop(at)}
          className={`flex items-baseline gap-3 border-hairline border-b py-1.5 ${dragged === at ? "opacity-50" : ""}`}
        >
          <span className="w-6 text-right text-soft">{at + 1}</span>
          <span className="grow truncate">{name}</span>
          <Button
            disabled={at === 0}
            onClick={() => onMove(at, at - 1)}
            className={`${QUIET} disabled:opacity-40`}
            aria-label={`Move up ${name}`}
          >
            Move up
          </Button>
          <Button
            disabled={at === names.length - 1}
            onClick={() => onMove(at, at + 1)}
            className={`${QUIET} disabled:opacity-40`}
            aria-label={`Move down ${name}`}
          >
            Move down
          </Button>
          {onRemove && (
            <Button onClick={() => onRemove(at)} className={QUIET} aria-label={`Remove ${name}`}>
              Remove
            </Button>
          )}
        </li>
      ))}
    </ol>
  );
}
