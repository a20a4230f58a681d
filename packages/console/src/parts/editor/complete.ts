/** What could be written next, from the schema and from what the installation has. Pure. */
import { cursorPlace } from "./cursor-place.ts";
import { fieldsOf, nodesAt, type Path, type SchemaNode, valuesOf } from "./schema-node.ts";

interface Choice {
  /** What is written. */
  readonly text: string;
  /** What is shown; left out: the text. */
  readonly label?: string;
  readonly about?: string;
  readonly kind: "field" | "value";
}

export interface Choices {
  readonly from: number;
  readonly choices: readonly Choice[];
}

/** What no schema knows: identifiers that exist here. By the place of the value, indices left out: `rooms/devices/profile`. */
export type KnownNames = (place: string) => readonly string[];

/**
 * @returns null where there is nothing to offer
 * @example choicesAt(siteSchema, "rooms:\n  - sl", 12, () => []) // → { from: 10, choices: [{ text: "slug: ", … }] }
 */
export function choicesAt(schema: SchemaNode, text: string, at: number, known: KnownNames): Choices | null {
  const place = cursorPlace(text, at);
  if (!place) return null;
  const { path, field, used, from, value } = place;
  if (field !== null) {
    const choices = valueChoices(nodesAt(schema, [...path, field], value), known(placeText([...path, field])));
    return choices.length > 0 ? { from, choices } : null;
  }
  const nodes = nodesAt(schema, path, value);
  const indent = " ".repeat(columnOf(text, from) + 2);
  const fields = fieldsOf(nodes).filter(({ name }) => !used.includes(name));
  const choices: Choice[] = [
    ...fields.map(({ name, about, isRequired, opens }): Choice => {
      const end = opens === null ? ": " : opens === "fields" ? `:\n${indent}` : `:\n${indent}- `;
      return { text: `${name}${end}`, label: name, about: isRequired ? `${about} (required)` : about, kind: "field" };
    }),
    ...valueChoices(
      nodes.flatMap(({ items }) => (items ? [items] : [])),
      known(placeText(path)),
    ),
  ];
  return choices.length > 0 ? { from, choices } : null;
}

function valueChoices(nodes: readonly SchemaNode[], names: readonly string[]): Choice[] {
  return [...valuesOf(nodes), ...names].map((text) => ({ text, kind: "value" }));
}

function placeText(path: Path): string {
  return path.filter((step) => typeof step === "string").join("/");
}

/** Where a field of the same level begins: after the dashes of a list. */
function columnOf(text: string, from: number): number {
  return from - (text.lastIndexOf("\n", from - 1) + 1);
}
