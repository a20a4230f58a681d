/** One of several that exclude each other, as a key that stays down: a filter, a span of time. */
import { Button } from "./button.tsx";

interface ChoiceProps {
  readonly pressed: boolean;
  readonly onPress: () => void;
  readonly children: string;
}

export function Choice({ pressed, onPress, children }: ChoiceProps) {
  return (
    <Button
      aria-pressed={pressed}
      onClick={onPress}
      className={`h-8 rounded-key px-2.5 font-semibold text-note ${
        pressed ? "bg-ink text-letters" : "text-soft hover:bg-act-wash hover:text-act"
      }`}
    >
      {children}
    </Button>
  );
}
