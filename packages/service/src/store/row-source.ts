/**
 * Rows handed to a statement. Many go as one JSON text: a statement for any number of them, and the cheapest for a full group. One
 * alone goes as plain values: taking a JSON text apart costs more to begin than a row costs to write, and a quiet system
 * writes rows one by one.
 */

import { storableJson, storableText } from "./storable.ts";

/** Names of columns with their types, in order. */
export type Columns = Readonly<Record<string, string>>;

/** One row; what is missing is null. Objects go as JSON. */
export type Row<Names extends Columns> = { readonly [Name in keyof Names]?: unknown };

/** Takes a value, and returns its placeholder. */
export type Placeholder = (value: unknown) => string;

/** What tells the statements apart that are made of sources: the same form is the same text. */
export function formOf(rows: readonly unknown[]): "one" | "many" {
  return rows.length === 1 ? "one" : "many";
}

/**
 * An item for `from`, with the rows' place among each other as a last column.
 *
 * @example rowSource("r", { id: "uuid" }, [{ id: "…" }], value) // → "(values ($1::uuid, 1)) as r (id, place)"
 */
export function rowSource<Names extends Columns>(
  alias: string,
  columns: Names,
  rows: readonly Row<Names>[],
  value: Placeholder,
): string {
  const names = Object.keys(columns);
  const all = `${alias} (${names.join(", ")}, place)`;
  const [row] = rows;
  if (row && formOf(rows) === "one") {
    const values = names.map((name) => `${value(plain(row[name]))}::${columns[name]}`);
    return `(values (${values.join(", ")}, 1)) as ${all}`;
  }
  const typed = names.map((name) => `${name} ${columns[name]}`);
  return `rows from (json_to_recordset(${value(storableJson(rows))}) as (${typed.join(", ")})) with ordinality as ${all}`;
}

function plain(value: unknown): unknown {
  if (value === undefined || value === null) return null;
  if (typeof value === "string") return storableText(value);
  return typeof value === "object" ? storableJson(value) : value;
}
