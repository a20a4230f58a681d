/** A field for text that is written by rule: descriptions, messages. It grows with its lines. */
import { Label, Textarea } from "@headlessui/react";

interface TextAreaProps {
  readonly label: string;
  /** A heading above says what it is already. */
  readonly isLabelHidden?: boolean;
  readonly value: string;
  readonly onChange: (text: string) => void;
  /** Lines: the fewest and the most that are shown. */
  readonly lines: readonly [number, number];
}

export function TextArea({ label, isLabelHidden = false, value, onChange, lines: [least, most] }: TextAreaProps) {
  return (
    <>
      <Label className={isLabelHidden ? "sr-only" : "font-plate text-note"}>{label}</Label>
      <Textarea
        value={value}
        onChange={(event) => onChange(event.target.value)}
        spellCheck={false}
        rows={Math.min(most, Math.max(least, value.split("\n").length + 1))}
        className="mt-1 w-full rounded-key border border-soft bg-enclosure px-2.5 py-2 font-mono text-note leading-[19px]"
      />
    </>
  );
}
