/** What a route that is being made wants of each part of the arrival, and what values mean. */
import { type ArrivalPart, type PartChoice, type ValueExample, withChoice } from "@bold-relay/core";
import { Input, Select } from "@headlessui/react";
import { Button } from "../../parts/button.tsx";
import { FIELD, QUIET } from "../../parts/form.tsx";

interface PartsProps {
  readonly parts: readonly ArrivalPart[];
  readonly choices: readonly PartChoice[];
  readonly onChange: (choices: readonly PartChoice[]) => void;
}

export function Parts({ parts, choices, onChange }: PartsProps) {
  if (parts.length === 0) return <p className="text-soft">The request brought nothing that a route could look at.</p>;
  const set = (place: number, choice: PartChoice) => onChange(withChoice(parts, choices, place, choice));
  return (
    <ul className="border-hairline border-t">
      {parts.map((part, at) => (
        <Part
          key={`${part.kind} ${part.place}`}
          part={part}
          choice={choices[at] ?? { as: "literal" }}
          onChange={(one) => set(at, one)}
        />
      ))}
    </ul>
  );
}

interface PartProps {
  readonly part: ArrivalPart;
  readonly choice: PartChoice;
  readonly onChange: (choice: PartChoice) => void;
}

function Part({ part: { kind, place, text }, choice, onChange }: PartProps) {
  const label = kind.endsWith(" level")
    ? `${capital(kind)} ${Number(place) + 1}`
    : kind === "field"
      ? `Field ${place}`
      : capital(kind);
  const isWhole = kind === "words" || kind === "digits";
  const choose = (as: string) =>
    onChange(as === "hole" ? { as, name: "" } : { as: as === "ignored" ? "ignored" : "literal" });
  return (
    <li className="flex flex-wrap items-center gap-3 border-hairline border-b py-1.5 text-note">
      <span className="w-[150px] truncate font-plate">{label}</span>
      <span className="w-[170px] truncate font-mono">{text}</span>
      {kind === "input event" ? null : (
        <Select
          aria-label={`${label}: what the route wants`}
          value={choice.as}
          onChange={(event) => choose(event.target.value)}
          className={FIELD}
        >
          <option value="literal">is exactly this</option>
          {!isWhole && <option value="hole">is anything, as a hole</option>}
          <option value="ignored">does not matter</option>
        </Select>
      )}
      {choice.as === "hole" && (
        <Input
          aria-label={`${label}: name of the hole`}
          value={choice.name}
          required
          pattern="[a-zA-Z]\w{0,30}"
          placeholder="name, like room"
          onChange={(event) => onChange({ as: "hole", name: event.target.value })}
          className={`${FIELD} w-[150px]`}
        />
      )}
    </li>
  );
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

interface ExamplesProps {
  readonly hole: string;
  /** What stood there in the arrival. */
  readonly first: string;
  readonly examples: readonly ValueExample[];
  readonly onChange: (examples: readonly ValueExample[]) => void;
}

/** Two numbers are the ends of a scale; anything else is a table. */
export function Examples({ hole, first, examples, onChange }: ExamplesProps) {
  const set = (place: number, changed: Partial<ValueExample>) =>
    onChange(examples.map((one, at) => (at === place ? { ...one, ...changed } : one)));
  return (
    <fieldset className="text-note">
      <legend className="font-plate">What the values of {`{${hole}}`} mean</legend>
      <p className="text-soft">
        Two pairs of numbers are the ends of a scale. Other pairs are a table. Without pairs the value is taken as it
        is.
      </p>
      {examples.map(({ said, means }, at) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: they have no name of their own while they are typed
        <p key={at} className="mt-1 flex items-center gap-2">
          <Input
            aria-label={`Value ${at + 1}`}
            value={said}
            onChange={(event) => set(at, { said: event.target.value })}
            className={`${FIELD} w-[130px]`}
          />
          →
          <Input
            aria-label={`Meaning ${at + 1}`}
            value={means}
            onChange={(event) => set(at, { means: event.target.value })}
            className={`${FIELD} w-[130px]`}
          />
          <Button onClick={() => onChange(examples.filter((_, place) => place !== at))} className={QUIET}>
            Remove
          </Button>
        </p>
      ))}
      <Button
        onClick={() => onChange([...examples, { said: examples.length === 0 ? first : "", means: "" }])}
        className={`${QUIET} mt-1`}
      >
        Add pair
      </Button>
    </fieldset>
  );
}
