/** The one search of the map: a name is enough. */
import { Field, Input, Label } from "@headlessui/react";
import { type FormEvent, useState } from "react";
import { Button } from "../../parts/button.tsx";
import { QUIET } from "../../parts/form.tsx";

interface FindBarProps {
  readonly of: string | undefined;
  readonly onFind: (text: string) => void;
  readonly onClear: () => void;
}

export function FindBar({ of, onFind, onClear }: FindBarProps) {
  const [text, setText] = useState("");
  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (text.trim() !== "") onFind(text.trim());
    setText("");
  };
  return (
    <form onSubmit={submit} className="flex flex-wrap items-center gap-x-3 gap-y-2">
      <Field className="flex items-center gap-2">
        <Label className="font-medium font-plate text-note text-soft">Find</Label>
        <Input
          type="search"
          value={text}
          maxLength={200}
          onChange={(event) => setText(event.target.value)}
          placeholder="channel, group, inlet, member"
          className="h-8 w-[250px] rounded-key border border-soft bg-sheet px-2.5 placeholder:text-faint"
        />
      </Field>
      <Button type="submit" className={QUIET}>
        Show
      </Button>
      {of !== undefined && (
        <Button onClick={onClear} className={QUIET}>
          Show everything
        </Button>
      )}
    </form>
  );
}
