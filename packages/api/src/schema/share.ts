/** Schemas in which what stands in several places is written once and referred to (JSON Schema draft 2020-12, section 8.2.4). */

/** Shorter ones stay where they are: a reference would be no shorter, JSON characters. */
const WORTH_SHARING = 400;

interface Known {
  readonly id: number;
  /** How long it is as JSON, about. */
  readonly length: number;
  places: number;
}

/** @param schema a tree; its own `$defs` stay */
export function shared(schema: object): object {
  const { $defs, ...tree } = schema as { readonly $defs?: object };
  const { short, parts } = sharedParts(tree, "#/$defs/");
  return Object.keys(parts).length === 0 ? schema : { ...short, $defs: { ...$defs, ...parts } };
}

/**
 * @param tree has schemas in it
 * @param at where the parts will stand, as a reference begins: `#/$defs/`
 */
export function sharedParts(tree: object, at: string): { readonly short: object; readonly parts: object } {
  const sharing = new Sharing(at);
  sharing.count(tree);
  const short = sharing.shortened(tree) as object;
  return { short, parts: Object.fromEntries(sharing.defined) };
}

class Sharing {
  readonly defined = new Map<string, unknown>();
  private readonly byShape = new Map<string, Known>();
  private readonly known = new Map<object, Known>();
  private readonly names = new Map<number, string>();
  private readonly at: string;

  constructor(at: string) {
    this.at = at;
  }

  /** Gives equal parts the same number, from the leaves up. */
  count(node: unknown): Known {
    const isTree = typeof node === "object" && node !== null;
    const parts = isTree ? Object.entries(node).map(([key, value]) => [key, this.count(value)] as const) : [];
    const shape = isTree
      ? `${Array.isArray(node) ? "[" : "{"}${parts.map(([key, { id }]) => `${JSON.stringify(key)}:${id}`).join(",")}`
      : JSON.stringify(node);
    const length = isTree ? parts.reduce((sum, [key, part]) => sum + key.length + 4 + part.length, 2) : shape.length;
    const found = this.byShape.get(shape) ?? { id: this.byShape.size, length, places: 0 };
    found.places += 1;
    this.byShape.set(shape, found);
    if (isTree) this.known.set(node, found);
    return found;
  }

  shortened(node: unknown, name = "part"): unknown {
    if (typeof node !== "object" || node === null) return node;
    const found = this.known.get(node);
    if (found && found.places > 1 && found.length >= WORTH_SHARING && !Array.isArray(node) && isSchema(node))
      return { $ref: `${this.at}${this.nameOf(found, node, name)}` };
    return this.inside(node, name);
  }

  private inside(node: object, name: string): unknown {
    if (Array.isArray(node)) return node.map((one) => this.shortened(one, name));
    return Object.fromEntries(
      Object.entries(node).map(([key, value]) => [key, this.shortened(value, KEYWORDS.has(key) ? name : key)]),
    );
  }

  private nameOf({ id }: Known, node: object, wanted: string): string {
    const known = this.names.get(id);
    if (known !== undefined) return known;
    const like = [...this.names.values()].filter((one) => one.replace(/-\d+$/, "") === wanted).length;
    const name = like === 0 ? wanted : `${wanted}-${like + 1}`;
    this.names.set(id, name);
    this.defined.set(name, this.inside(node, wanted));
    return name;
  }
}

const KEYWORDS: ReadonlySet<string> = new Set([
  "properties",
  "items",
  "anyOf",
  "oneOf",
  "allOf",
  "additionalProperties",
]);

/** A list of properties is no schema by itself. */
function isSchema(node: object): boolean {
  return "type" in node || "anyOf" in node || "oneOf" in node || "enum" in node;
}
