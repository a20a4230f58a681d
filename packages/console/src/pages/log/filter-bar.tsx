/** The one search, and what ended how. */
import { LOG_RESULTS } from "@bold-relay/api";
import { Field, Input, Label } from "@headlessui/react";
import { useEffect, useState } from "react";
import { Button } from "../../parts/button.tsx";
import { Choice } from "../../parts/choice.tsx";
import { SiteChoice } from "../../parts/site-choice.tsx";
import { END_WORDS, type FilterChange, type Filters } from "./filters.ts";

interface FilterBarProps {
  readonly filters: Filters;
  readonly onChange: (change: FilterChange) => void;
}

/** The search follows the typing, but not every key. */
const SETTLE_MS = 250;

export function FilterBar({ filters, onChange }: FilterBarProps) {
  const [words, setWords] = useState(filters.words ?? "");
  const known = filters.words ?? "";
  useEffect(() => setWords(known), [known]);
  useEffect(() => {
    if (words === known || words.trim().length === 1) return;
    const timer = setTimeout(() => onChange({ words: words.trim() }), SETTLE_MS);
    return () => clearTimeout(timer);
  }, [words, known, onChange]);
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2">
      <Field className="flex items-center gap-2">
        <Label className="font-medium font-plate text-note text-soft">Last 24 h</Label>
        <Input
          type="search"
          value={words}
          maxLength={80}
          onChange={(event) => setWords(event.target.value)}
          placeholder="person, place, channel, words"
          className="h-8 w-[250px] rounded-key border border-soft bg-sheet px-2.5 placeholder:text-faint"
        />
      </Field>
      <fieldset className="flex flex-wrap items-center gap-1">
        <legend className="sr-only">Result</legend>
        {[undefined, ...LOG_RESULTS].map((end) => (
          <Choice key={end ?? "all"} pressed={filters.result === end} onPress={() => onChange({ result: end })}>
            {end ? END_WORDS[end] : "All"}
          </Choice>
        ))}
      </fieldset>
      <SiteChoice site={filters.site} onChoose={(site) => onChange({ site })} />
      <Chosen name="Channel" value={filters.channel} onClear={() => onChange({ channel: "" })} />
      <Chosen name="Requested by" value={filters.asker} onClear={() => onChange({ asker: "" })} />
    </div>
  );
}

/** A filter that was chosen by pressing a name in the list. */
function Chosen({ name, value, onClear }: { name: string; value: string | undefined; onClear: () => void }) {
  if (value === undefined) return null;
  return (
    <p className="text-note">
      <span className="text-soft">{name}</span> {value}{" "}
      <Button onClick={onClear} className="text-act underline underline-offset-2">
        any
      </Button>
    </p>
  );
}
