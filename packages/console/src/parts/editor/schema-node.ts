/** Looking through a JSON Schema (draft 2020-12) as an editor needs it: what may stand at a place. Pure. */

export interface SchemaNode {
  readonly type?: string | readonly string[];
  readonly description?: string;
  readonly properties?: Readonly<Record<string, SchemaNode>>;
  readonly patternProperties?: Readonly<Record<string, SchemaNode>>;
  readonly required?: readonly string[];
  readonly items?: SchemaNode;
  readonly enum?: readonly unknown[];
  readonly const?: unknown;
  readonly anyOf?: readonly SchemaNode[];
  readonly oneOf?: readonly SchemaNode[];
  readonly allOf?: readonly SchemaNode[];
  readonly $ref?: string;
  readonly $defs?: Readonly<Record<string, SchemaNode>>;
}

export type Path = readonly (string | number)[];

/**
 * Every form that a place may have. Where forms differ by kind, only those that fit what stands there.
 *
 * @param value the whole document as it stands
 */
export function nodesAt(root: SchemaNode, path: Path, value: unknown): SchemaNode[] {
  let nodes = formsOf(root, root, value);
  let here = value;
  for (const step of path) {
    here = isFields(here) || Array.isArray(here) ? (here as Record<string, unknown>)[step] : undefined;
    nodes = nodes.flatMap((node) => childOf(node, step)).flatMap((node) => formsOf(root, node, here));
  }
  return nodes;
}

function childOf({ items, properties, patternProperties }: SchemaNode, step: string | number): SchemaNode[] {
  if (typeof step === "number") return items ? [items] : [];
  const named = properties && Object.hasOwn(properties, step) ? properties[step] : undefined;
  return named ? [named] : Object.values(patternProperties ?? {});
}

/** A node with its alternatives laid out beside it. */
function formsOf(root: SchemaNode, node: SchemaNode, value: unknown, depth = 0): SchemaNode[] {
  if (depth > 8) return [];
  const meant = node.$ref === undefined ? node : (root.$defs?.[node.$ref.split("/").at(-1) ?? ""] ?? {});
  const alternatives = [...(meant.oneOf ?? []), ...(meant.anyOf ?? []), ...(meant.allOf ?? [])];
  const forms = alternatives.flatMap((one) => formsOf(root, one, value, depth + 1)).filter((one) => fits(one, value));
  return [...(alternatives.length === 0 || meant.properties ? [meant] : []), ...forms];
}

/** Whether no field that can be one thing only is another. */
function fits({ properties = {} }: SchemaNode, value: unknown): boolean {
  if (!isFields(value)) return true;
  return Object.entries(properties).every(([name, node]) => {
    const only = node.const === undefined ? (node.enum?.length === 1 ? node.enum[0] : undefined) : node.const;
    return only === undefined || value[name] === undefined || value[name] === null || value[name] === only;
  });
}

export interface KnownField {
  readonly name: string;
  readonly about: string;
  readonly isRequired: boolean;
  /** Whether it holds fields or a list: these stand on lines of their own. */
  readonly opens: "fields" | "list" | null;
}

/** The fields that may stand at a place, required ones first. */
export function fieldsOf(nodes: readonly SchemaNode[]): KnownField[] {
  const known = new Map<string, KnownField>();
  for (const { properties = {}, required = [] } of nodes)
    for (const [name, node] of Object.entries(properties))
      if (!known.has(name)) {
        const opens = node.properties ? "fields" : node.items ? "list" : null;
        known.set(name, { name, about: node.description ?? "", isRequired: required.includes(name), opens });
      }
  return [...known.values()].sort((one, other) => Number(other.isRequired) - Number(one.isRequired));
}

/** The values that may stand at a place, where there are few. */
export function valuesOf(nodes: readonly SchemaNode[]): string[] {
  const values = nodes.flatMap((node) => {
    if (node.const !== undefined) return [node.const];
    if (node.enum) return node.enum;
    return node.type === "boolean" ? [true, false] : [];
  });
  return [...new Set(values.map(String))];
}

function isFields(value: unknown): value is Record<string, unknown> {
  return typeof value === "object" && value !== null && !Array.isArray(value);
}
