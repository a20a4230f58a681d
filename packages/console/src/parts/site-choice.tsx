/** Of which premises; not asked where there is only one. */
import { useBoard } from "../api/queries.ts";
import { Choice } from "./choice.tsx";

interface SiteChoiceProps {
  /** Slug; undefined: all of them. */
  readonly site: string | undefined;
  /** "": all of them. */
  readonly onChoose: (site: string) => void;
}

export function SiteChoice({ site, onChoose }: SiteChoiceProps) {
  const { data: board } = useBoard();
  const sites = board?.sites ?? [];
  if (sites.length < 2) return null;
  return (
    <fieldset className="flex flex-wrap items-center gap-1">
      <legend className="sr-only">Premises</legend>
      <Choice pressed={site === undefined} onPress={() => onChoose("")}>
        All premises
      </Choice>
      {sites.map(({ slug, name }) => (
        <Choice key={slug} pressed={site === slug} onPress={() => onChoose(slug)}>
          {name}
        </Choice>
      ))}
    </fieldset>
  );
}
