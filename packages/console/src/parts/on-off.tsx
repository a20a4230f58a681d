/** Off and On, side by side. What is is filled; what was asked and is not proven is outlined until it is, or is not. */

import type { Value } from "@bold-relay/core";
import { Button } from "@headlessui/react";

interface OnOffProps {
  readonly name: string;
  readonly is: Value | null;
  /** Asked for and not ended. */
  readonly asked: Value | null;
  readonly onPress: (value: Value) => void;
}

export function OnOff({ name, is, asked, onPress }: OnOffProps) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset has no place in a table cell's flow
    <div role="group" aria-label={name} className="inline-flex rounded-key border border-soft">
      {(["off", "on"] as const).map((value) => (
        <Button
          key={value}
          aria-pressed={is === value}
          onClick={() => onPress(value)}
          className={`h-7 min-w-10 px-2.5 max-md:h-10 max-md:min-w-12 font-semibold text-note transition-colors data-active:bg-act data-active:text-letters ${look(value, is, asked)}`}
        >
          {value === "on" ? "On" : "Off"}
        </Button>
      ))}
    </div>
  );
}

function look(value: Value, is: Value | null, asked: Value | null): string {
  if (asked === value && is !== value) return "text-act outline-2 outline-act outline-dashed -outline-offset-2";
  if (is === value) return "bg-ink text-letters";
  return "text-soft data-hover:bg-act-wash data-hover:text-act";
}
