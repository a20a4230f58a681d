/** Keys side by side. What is is filled; what was asked and is not proven is outlined until it is, or is not. */
import { Button } from "./button.tsx";
import { useHold } from "./use-hold.ts";

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
  /** It runs only while the key is held: what ends it, and how often it is asked for anew, ms. */
  readonly hold?: { readonly end: Meaning; readonly renewMs: number };
}

interface KeysProps<Meaning> {
  readonly name: string;
  readonly keys: readonly Key<Meaning>[];
  /** Resolves to null when it was not taken. */
  readonly onPress: (meaning: Meaning) => Promise<unknown>;
  /** For a panel: a thumb hits them without looking. */
  readonly large?: boolean;
}

export function Keys<Meaning>({ name, keys, onPress, large = false }: KeysProps<Meaning>) {
  const shape = large ? LARGE : SHAPE;
  return (
    // biome-ignore lint/a11y/useSemanticElements: a fieldset has no place in a table cell's flow
    <div
      role="group"
      aria-label={name}
      className={`${large ? "flex w-full" : "inline-flex"} rounded-key border border-soft`}
    >
      {keys.map((key) =>
        key.hold ? (
          <HeldKey key={key.label} held={key} hold={key.hold} onPress={onPress} shape={shape} />
        ) : (
          <Button
            key={key.label}
            aria-label={key.spoken}
            aria-pressed={key.is ?? undefined}
            onClick={() => void onPress(key.meaning)}
            className={`${shape} active:bg-act active:text-letters ${look(key)}`}
          >
            {key.label}
          </Button>
        ),
      )}
    </div>
  );
}

const SHAPE = "h-7 min-w-10 px-2 max-md:h-10 max-md:min-w-11 font-semibold text-note transition-colors";

const LARGE = "h-14 min-w-0 flex-1 px-2 font-semibold text-title transition-colors";

interface HeldKeyProps<Meaning> extends Pick<KeysProps<Meaning>, "onPress"> {
  readonly held: Key<Meaning>;
  readonly hold: NonNullable<Key<Meaning>["hold"]>;
  readonly shape: string;
}

/** A key that runs something only while it is held. */
function HeldKey<Meaning>({ held: key, hold, onPress, shape }: HeldKeyProps<Meaning>) {
  const { held, listeners } = useHold({
    run: async () => (await onPress(key.meaning)) !== null,
    stop: () => void onPress(hold.end),
    renewMs: hold.renewMs,
  });
  return (
    <button
      type="button"
      aria-label={key.spoken}
      aria-description="Runs while it is held"
      title="Hold to run. Release to stop."
      data-held={held || undefined}
      className={`${shape} touch-none select-none underline decoration-dotted underline-offset-4 ${held ? "bg-act text-letters" : `${look(key)} hover:bg-act-wash hover:text-act`}`}
      {...listeners}
    >
      {key.label}
    </button>
  );
}

function look({ is, asked }: Key<unknown>): string {
  if (asked && !is) return "text-act outline-2 outline-act outline-dashed -outline-offset-2";
  if (is) return "bg-ink text-letters";
  return `${is === null ? "text-act" : "text-soft"} hover:bg-act-wash hover:text-act`;
}
