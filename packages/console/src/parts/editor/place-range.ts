/** From the place that a finding names to the characters of a text. Pure. */
import {
  type ErrorCode,
  isMap,
  isNode,
  isPair,
  isScalar,
  isSeq,
  type Node,
  type Pair,
  type ParsedNode,
  parseDocument,
  type YAMLMap,
} from "yaml";

export interface TextRange {
  readonly from: number;
  readonly to: number;
}

/** What is wrong with the form of a text: where, and in words. */
export function formMistakes(text: string): (TextRange & { readonly text: string })[] {
  return parseDocument(text, { logLevel: "silent" }).errors.map(({ pos: [from, to], code, message }) => {
    const line = text.slice(0, from).split("\n").length;
    const said = MISTAKES[code] ?? `${message.split("\n")[0]?.replace(/ at line.*$/, "") ?? ""}.`;
    return { from, to: Math.max(to, from + 1), text: `Line ${line}: ${said}` };
  });
}

/** The mistakes that people make most, in our words. */
const MISTAKES: Partial<Record<ErrorCode, string>> = {
  BAD_INDENT: "The indentation fits no line above.",
  DUPLICATE_KEY: "This field stands here twice.",
  MISSING_CHAR: "A colon, a bracket or a quotation mark is missing.",
  MULTILINE_IMPLICIT_KEY: "The line has no colon. Write “field: value”.",
  TAB_AS_INDENT: "Indent with spaces, not with tabs.",
  UNEXPECTED_TOKEN: "Something stands here that does not belong here.",
};

/**
 * @param at `rooms[0].devices[1].name`, `devices/finch/porch`, `groups/vents`; of one that is missing, what it is missing in
 * @returns the first line of what is there; the first line of all when nothing is
 */
export function rangeOf(text: string, at: string): TextRange {
  const root = parseDocument(text, { logLevel: "silent" }).contents;
  const node = (at.includes("/") ? bySlugs(root, at.split("/")) : bySteps(root, stepsOf(at))) ?? root;
  const [from, to] = (isPair(node) ? keyRange(node) : node?.range) ?? [0, text.length];
  const end = text.indexOf("\n", from);
  return { from, to: Math.max(Math.min(to, end < 0 ? text.length : end), Math.min(from + 1, text.length)) };
}

function stepsOf(at: string): (string | number)[] {
  return (at.match(/[^.[\]]+/g) ?? []).map((step) => (/^\d+$/.test(step) ? Number(step) : step));
}

type Found = Node | Pair | null | undefined;

/** The deepest that there is of a path. */
function bySteps(root: Found, steps: readonly (string | number)[]): Found {
  let found: Found = root;
  for (const step of steps) {
    const holder: Found = isPair(found) ? (found.value as Found) : found;
    const next: Found =
      isSeq(holder) && typeof step === "number" ? (holder.items[step] as Found) : pairIn(holder, String(step));
    if (!next) return found;
    found = next;
  }
  return found;
}

function pairIn(holder: Found, name: string): Found {
  return isMap(holder) ? holder.items.find(({ key }) => isScalar(key) && String(key.value) === name) : undefined;
}

/** What has these identifiers, one within the other, wherever it stands. */
function bySlugs(root: Found, [kind = "", ...slugs]: readonly string[]): Found {
  const lists = kind === "devices" ? [`rooms`] : [kind];
  let within: Found = root;
  for (const list of lists) within = pairIn(within, list);
  let found: Found = within;
  for (const slug of slugs) {
    const next: Found = named(
      isPair(found) ? (found.value as Found) : found,
      slug,
      kind === "devices" ? "profile" : null,
    );
    if (!next) break;
    found = next;
  }
  return found && isNode(found) ? (pairIn(found, "slug") ?? pairIn(found, "name") ?? found) : found;
}

/** @param until a field that tells a device from the room around it, which may be called the same */
function named(node: Found, slug: string, until: string | null, depth = 0): Found {
  if (depth > 6) return undefined;
  if (isSeq(node)) {
    for (const item of node.items) {
      const found = named(item as Found, slug, until, depth + 1);
      if (found) return found;
    }
    return undefined;
  }
  if (!isMap(node)) return undefined;
  if (isCalled(node, slug) && (until === null || pairIn(node, until) || pairIn(node, "kind"))) return node;
  for (const { value } of node.items) {
    const found = named(value as Found, slug, until, depth + 1);
    if (found) return found;
  }
  return undefined;
}

function isCalled(map: YAMLMap, slug: string): boolean {
  const called = map.get("slug") ?? map.get("name");
  return called === slug;
}

function keyRange({ key, value }: Pair): [number, number] | undefined {
  const from = (key as ParsedNode | null)?.range?.[0];
  const to = (value as ParsedNode | null)?.range?.[1] ?? (key as ParsedNode | null)?.range?.[1];
  return from === undefined || to === undefined ? undefined : [from, to];
}
