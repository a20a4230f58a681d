/** Keys side by side. What is is filled; what was asked and is not proven is outlined until it is, or is not. */
import { Button } from "@headlessui/react";

export interface Key<Meaning> {
  /** What stands on it. */
  readonly label: string;
  /** What a screen reader says where the label is a sign. */
  readonly spoken?: string;
  readonly meaning: Meaning;
  /** Whether the channel is so; null: the key stands for no state. */
  readonly is: boolean | null;
  /** Asked for and not ended. */
  readonly asked: boolean;
}

interface KeysProps<Meaning> {
  readonly name: string;
  readonly keys: readonly Key<Meaning>[];
  readonly onPress: (meaning: Meaning) => void;
}

export function Keys<Meaning>({ name, keys, onPress }: KeysProps<Meaning>) {
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset has no place in a table cell's flow
    <div role="group" aria-label={name} className="inline-flex rounded-key border border-soft">
      {keys.map((key) => (
        <Button
          key={key.label}
          aria-label={key.spoken}
          aria-pressed={key.is ?? undefined}
          onClick={() => onPress(key.meaning)}
          className={`h-7 min-w-10 px-2 max-md:h-10 max-md:min-w-11 font-semibold text-note transition-colors data-active:bg-act data-active:text-letters ${look(key)}`}
        >
          {key.label}
        </Button>
      ))}
    </div>
  );
}

function look({ is, asked }: Key<unknown>): string {
  if (asked && !is) return "text-act outline-2 outline-act outline-dashed -outline-offset-2";
  if (is) return "bg-ink text-letters";
  return `${is === null ? "text-act" : "text-soft"} data-hover:bg-act-wash data-hover:text-act`;
}
