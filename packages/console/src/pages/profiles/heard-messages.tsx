/** Messages to try a profile with: typed in, or picked from the wire. */
import { Description, Field, Input, Label } from "@headlessui/react";
import { useState } from "react";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET, Trouble } from "../../parts/form.tsx";
import { TextArea } from "../../parts/text-area.tsx";
import { useWire } from "../wire/use-wire.ts";

export function HeardMessages({ text, onChange }: { text: string; onChange: (text: string) => void }) {
  const [filter, setFilter] = useState<string | null>(null);
  return (
    <>
      <Field className="mt-4 block">
        <TextArea label="Messages from the device" value={text} onChange={onChange} lines={[3, 8]} />
        <Description className="text-note text-soft">
          One message per line: topic, space, payload. Write bytes as hex:0A1B. Example: site/board/one/state ON
        </Description>
      </Field>
      <p className="mt-1">
        <Button
          onClick={() => setFilter(filter === null ? "#" : null)}
          aria-expanded={filter !== null}
          className={QUIET}
        >
          {filter === null ? "Choose messages from the wire" : "Close the wire"}
        </Button>
      </p>
      {filter !== null && (
        <Picker
          filter={filter}
          onFilter={setFilter}
          onPick={(line) => onChange(text === "" ? line : `${text}\n${line}`)}
        />
      )}
    </>
  );
}

interface PickerProps {
  filter: string;
  onFilter: (filter: string) => void;
  onPick: (line: string) => void;
}

const MOST_SHOWN = 12;

function Picker({ filter, onFilter, onPick }: PickerProps) {
  const { lines, trouble } = useWire(filter, true, false);
  const messages = lines.flatMap(({ key, message }) => (message === null || message.own ? [] : [{ key, message }]));
  return (
    <div className="mt-2 border-rule border-l-2 pl-3">
      <Field className="flex items-center gap-2">
        <Label className="font-plate text-note">Filter</Label>
        <Input
          defaultValue={filter}
          onBlur={(event) => onFilter(event.target.value.trim() || "#")}
          className={`${FIELD} font-mono text-note`}
        />
      </Field>
      <Trouble>{trouble}</Trouble>
      {messages.length === 0 && <p className="mt-2 text-note text-soft">No messages yet for {filter}.</p>}
      <ul className="mt-2 text-note">
        {messages.slice(0, MOST_SHOWN).map(({ key, message: { topic, text, hex } }) => (
          <li key={key} className="flex items-baseline gap-3 border-hairline border-b py-1">
            <Button
              onClick={() => onPick(`${topic}\t${/ \(hex\)$/.test(text) ? `hex:${hex}` : text}`)}
              className={QUIET}
            >
              Add
            </Button>
            <span className="break-all font-mono">
              {topic} <span className="text-soft">{text}</span>
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
