/** Where in a description the cursor stands, in a text that is not finished. Pure. */
import { isMap, isPair, isScalar, isSeq, type Node, type Pair, parseDocument, visit } from "yaml";
import type { Path } from "./schema-node.ts";

export interface CursorPlace {
  /** Of what holds the cursor: the fields that it is one of, or the list. */
  readonly path: Path;
  /** The field whose value is written; null: a field's name is, or an item of a list. */
  readonly field: string | null;
  /** Fields that stand beside it already. */
  readonly used: readonly string[];
  /** Where the word begins. */
  readonly from: number;
  /** The document as it stands, without the word. */
  readonly value: unknown;
}

const MARK = "cursor-mark-7f3a";
/** A text that takes longer to read than one types. */
const MOST_CHARACTERS = 200_000;

/** null: nobody can say what would stand there. */
export function cursorPlace(text: string, at: number): CursorPlace | null {
  if (text.length > MOST_CHARACTERS) return null;
  const line = text.slice(text.lastIndexOf("\n", at - 1) + 1, at);
  const word = /[^\s,[\]{}:]*$/.exec(line)?.[0] ?? "";
  if (line.trimStart().startsWith("#") || /["']/.test(word)) return null;
  const from = at - word.length;
  const rest = /^[^\s,[\]{}:]*/.exec(text.slice(at))?.[0] ?? "";
  const before = line.slice(0, line.length - word.length);
  const isValue = /:\s+$/.test(before);
  const after = text.slice(at + rest.length);
  const isName = after.startsWith(":");
  for (const insert of isValue || isName ? [MARK] : [`${MARK}: ~`, MARK]) {
    const found = placeIn(`${text.slice(0, from)}${insert}${after}`);
    if (found) return { ...found, from };
  }
  return null;
}

function placeIn(text: string): Omit<CursorPlace, "from"> | null {
  const document = parseDocument(text, { strict: false, logLevel: "silent" });
  let found: { path: Path; field: string | null; used: string[] } | null = null;
  visit(document, {
    Scalar(key, node, ancestors) {
      if (node.value !== MARK) return undefined;
      const parents = ancestors.filter((one) => isMap(one) || isSeq(one) || isPair(one)) as (Node | Pair)[];
      const holder = parents.at(-1);
      const steps = stepsTo(parents, node);
      if (isPair(holder)) {
        const map = parents.at(-2);
        const used = isMap(map) ? map.items.map((pair) => nameOf(pair)).filter((name) => name !== MARK) : [];
        found = { path: steps.slice(0, -1), field: key === "key" ? null : nameOf(holder), used };
      } else found = { path: steps.slice(0, -1), field: null, used: [] };
      return visit.BREAK;
    },
  });
  if (found === null) return null;
  return { ...(found as { path: Path; field: string | null; used: string[] }), value: plainOf(document) };
}

/** The names and numbers on the way from the whole to a node. */
function stepsTo(parents: readonly (Node | Pair)[], node: Node): (string | number)[] {
  return parents.flatMap((parent, index): (string | number)[] => {
    if (isPair(parent)) return [nameOf(parent)];
    if (!isSeq(parent)) return [];
    return [parent.items.indexOf((parents[index + 1] ?? node) as never)];
  });
}

function nameOf({ key }: Pair): string {
  return isScalar(key) ? String(key.value) : "";
}

function plainOf(document: ReturnType<typeof parseDocument>): unknown {
  try {
    return document.toJS({ maxAliasCount: 100 });
  } catch {
    return null;
  }
}
