/** A description in YAML: completed and checked as it is typed, with what is wrong at its place and below in words. */
import type { DescriptionCheckView, DescriptionKind } from "@bold-relay/api";
import type { Finding } from "@bold-relay/core";
import { lazy, Suspense, useCallback, useMemo } from "react";
import { useSchema } from "../../api/queries.ts";
import { readDescription } from "../description-text.ts";
import { Changes, Findings, ReachChanges } from "../findings.tsx";
import { Trouble } from "../form.tsx";
import type { Mark } from "./code-editor.tsx";
import { choicesAt } from "./complete.ts";
import { useKnownNames } from "./known-names.ts";
import { formMistakes, rangeOf } from "./place-range.ts";
import { nodesAt, type Path, type SchemaNode } from "./schema-node.ts";
import { useCheck } from "./use-check.ts";

const CodeEditor = lazy(() => import("./code-editor.tsx"));

interface DescriptionEditorProps {
  /** null: nothing is offered, for there is no schema of it. */
  readonly kind: DescriptionKind | null;
  /** Where in a description of this kind the text stands; empty: it is the whole. */
  readonly within?: Path;
  readonly label: string;
  readonly text: string;
  readonly onChange: (text: string) => void;
  /** Whose names are offered; null: those of every site. */
  readonly site: string | null;
  /** Asks the service what is wrong with it, and what saving it would change. It must stay the same from one drawing to the next. */
  readonly check: (draft: never) => Promise<DescriptionCheckView>;
  readonly lines: readonly [number, number];
  /** What saving would change is listed below. */
  readonly showsChanges?: boolean;
}

const WHOLE: Path = [];

/** Reading more than this at each key would hold up the page. */
const MOST_CHARACTERS = 500_000;

export function DescriptionEditor({
  kind,
  within = WHOLE,
  label,
  text,
  onChange,
  site,
  check: run,
  lines,
  showsChanges = false,
}: DescriptionEditorProps) {
  const root = useSchema(kind) as SchemaNode | undefined;
  const known = useKnownNames(site);
  const schema = useMemo(() => root && partOf(root, within), [root, within]);
  const isLarge = text.length > MOST_CHARACTERS;
  const read = useMemo(() => (isLarge ? {} : readDescription<object>(text)), [text, isLarge]);
  const draft = isLarge || "wrong" in read ? null : JSON.stringify(read);
  const { check, trouble, isCurrent } = useCheck(draft, run as (draft: object) => Promise<DescriptionCheckView>);
  const marks = useMemo(
    () => (isLarge ? [] : marksOf(text, draft === null ? [] : (check?.findings ?? []))),
    [text, isLarge, draft, check],
  );
  const choices = useCallback(
    (written: string, at: number) => (schema ? choicesAt(schema, written, at, known) : null),
    [schema, known],
  );
  return (
    <div>
      <Suspense fallback={<div className="rounded-key border border-soft" style={{ height: lines[0] * 19 }} />}>
        <CodeEditor label={label} value={text} onChange={onChange} marks={marks} choices={choices} lines={lines} />
      </Suspense>
      {isLarge && (
        <p role="status" className="mt-2 text-note text-soft">
          This text is too large to be checked while you type. It is checked when you save it.
        </p>
      )}
      {"wrong" in read && <Trouble>{formMistakes(text)[0]?.text ?? String(read.wrong)}</Trouble>}
      <Trouble>{draft === null ? null : trouble}</Trouble>
      {draft !== null && check && <Findings findings={check.findings} />}
      {draft !== null && check && isCurrent && showsChanges && !isWrong(check) && <Changes changes={check.changes} />}
      {draft !== null && check && isCurrent && !isWrong(check) && <ReachChanges reach={check.reach} />}
    </div>
  );
}

function isWrong({ findings }: DescriptionCheckView): boolean {
  return findings.some(({ level }) => level === "wrong");
}

function marksOf(text: string, findings: readonly Finding[]): Mark[] {
  const mistakes = formMistakes(text).map((one): Mark => ({ ...one, level: "wrong" }));
  if (mistakes.length > 0) return mistakes;
  return findings.slice(0, 50).map(({ at, level, text: said }) => ({ ...rangeOf(text, at), level, text: said }));
}

/** The schema of a part, with the definitions of the whole. */
function partOf(root: SchemaNode, within: Path): SchemaNode {
  const [part = root] = within.length === 0 ? [root] : nodesAt(root, within, undefined);
  return root.$defs ? { ...part, $defs: root.$defs } : part;
}
