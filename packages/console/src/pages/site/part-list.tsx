/** The parts of one kind of a site, each with a line that says what it is, and the ways to add, edit and delete one. */
import { ONE, type SiteDescription, type SitePart } from "@bold-relay/core";
import { type ReactNode, useState } from "react";
import { Button } from "../../parts/button.tsx";
import { QUIET, SectionTitle, Trouble, Twice } from "../../parts/form.tsx";
import { type PartOf, usePartEdit } from "./use-part-edit.ts";

interface PartEntry {
  /** By which it is told apart: an identifier, or the name of an interlock. */
  readonly id: string;
  readonly name: string;
  readonly about: string;
  /** More that can be done with it. */
  readonly more?: ReactNode;
}

interface PartListProps {
  readonly site: SiteDescription;
  readonly part: SitePart;
  readonly title: string;
  /** Said where there is none. */
  readonly empty: string;
  readonly entries: readonly PartEntry[];
  /** The form of one, or of a new one (null). */
  readonly form: (id: string | null, close: () => void) => ReactNode;
  /** Beside the way to add one. */
  readonly more?: ReactNode;
}

export function PartList({ site, part, title, empty, entries, form, more }: PartListProps) {
  /** undefined: no form is open; null: that of a new one. */
  const [open, setOpen] = useState<string | null | undefined>(undefined);
  const close = () => setOpen(undefined);
  const one = ONE[part];
  return (
    <section aria-label={title}>
      <SectionTitle>{title}</SectionTitle>
      {entries.length === 0 && open === undefined && <p className="mt-2 text-note text-soft">{empty}</p>}
      <ul>
        {entries.map((entry) => (
          <li key={entry.id} className="border-hairline border-b py-2" data-part={entry.id}>
            <div className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
              <span className="min-w-[150px] font-medium">{entry.name}</span>
              <span className="min-w-0 flex-1 text-note text-soft max-md:basis-full">{entry.about}</span>
              <span className="flex flex-wrap items-baseline gap-4">
                {entry.more}
                <Button
                  onClick={() => setOpen(open === entry.id ? undefined : entry.id)}
                  aria-expanded={open === entry.id}
                  aria-label={`Edit ${one} ${entry.name}`}
                  className={QUIET}
                >
                  Edit {one}
                </Button>
                <DeletePart site={site} part={part} entry={entry} />
              </span>
            </div>
            {open === entry.id && form(entry.id, close)}
          </li>
        ))}
      </ul>
      {open === null ? (
        form(null, close)
      ) : (
        <p className="mt-2 flex gap-5">
          <Button onClick={() => setOpen(null)} className={QUIET}>
            Add {one}
          </Button>
          {more}
        </p>
      )}
    </section>
  );
}

function DeletePart({ site, part, entry }: { site: SiteDescription; part: SitePart; entry: PartEntry }) {
  const { trouble, change, plan } = usePartEdit(site, NOTHING);
  const edit = { edit: "delete", part, name: entry.id } as const;
  const warnings = (plan?.findings ?? []).flatMap(({ at }) =>
    at.startsWith("inlets/") ? (at.split("/")[1] ?? []) : [],
  );
  return (
    <>
      <Twice
        verb={`Delete ${ONE[part]}`}
        sure={`Delete ${entry.name}${warnings.length > 0 ? `. Inlets with routes to it: ${[...new Set(warnings)].join(", ")}` : ""}`}
        onAsk={() => void change(edit, true)}
        onSure={() => void change(edit, false)}
      />
      <Trouble>{trouble}</Trouble>
    </>
  );
}

/** Deleting is asked for twice, and undone by one press: it does not matter that somebody else changed it. */
const NOTHING: PartOf = () => null;
