/** Of which sites; not asked where there is only one. */
import { Field, Label, Select } from "@headlessui/react";
import { useBoard } from "../api/board.ts";
import { Choice } from "./choice.tsx";

interface SiteChoiceProps {
  /** Slug; undefined: all of them. */
  readonly site: string | undefined;
  /** "": all of them. */
  readonly onChoose: (site: string) => void;
}

/** More of them are a list that opens: as keys they would fill the page before anything is said. */
const MOST_KEYS = 6;

export function SiteChoice({ site, onChoose }: SiteChoiceProps) {
  const { data: board } = useBoard();
  const sites = board?.sites ?? [];
  if (sites.length < 2) return null;
  if (sites.length > MOST_KEYS)
    return (
      <Field className="flex items-center gap-2">
        <Label className="font-medium font-plate text-note text-soft">Site</Label>
        <Select
          value={site ?? ""}
          onChange={(event) => onChoose(event.target.value)}
          className="h-8 max-w-[250px] rounded-key border border-soft bg-sheet px-2"
        >
          <option value="">All sites</option>
          {sites.map(({ slug, name }) => (
            <option key={slug} value={slug}>
              {name}
            </option>
          ))}
        </Select>
      </Field>
    );
  return (
    <fieldset className="flex flex-wrap items-center gap-1">
      <legend className="sr-only">Site</legend>
      <Choice pressed={site === undefined} onPress={() => onChoose("")}>
        All sites
      </Choice>
      {sites.map(({ slug, name }) => (
        <Choice key={slug} pressed={site === slug} onPress={() => onChoose(slug)}>
          {name}
        </Choice>
      ))}
    </fieldset>
  );
}
