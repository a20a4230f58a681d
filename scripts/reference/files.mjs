// The reference of files: each field of a site, a profile, an inlet, a notification and a set-up, with its form and meaning.
import { wholeFileSchemas } from "../../packages/api/src/schema/index.ts";
import { page, table } from "./markdown.mjs";

const FILES = { site: "Site", profile: "Profile", inlet: "Inlet", notification: "Notification", setup: "Set-up file" };

export function filesPage() {
  const schemas = wholeFileSchemas();
  return page(
    "Files",
    [
      "Sites, profiles, inlets and notifications are YAML or JSON files. The console has forms for the same fields. A name after",
      "a dot belongs to the field above it that has one dot less. **Bold** fields are required. JSON Schemas for editors: [schemas](../schemas).",
    ].join("\n"),
    ...Object.entries(FILES).map(([file, title]) => `## ${title}\n\n${fieldTable(merged(schemas[file]))}`),
  );
}

function fieldTable(schema) {
  return table(["field", "form", "meaning"], rowsOf(schema, 0));
}

/** A field, then the fields inside it. */
function rowsOf(schema, depth) {
  const required = new Set(schema.required ?? []);
  return Object.entries(schema.properties ?? {}).flatMap(([name, property]) => {
    const inside = merged(innerOf(property));
    const shown = required.has(name) ? `**\`${name}\`**` : `\`${name}\``;
    const row = [`${"· ".repeat(depth)}${shown}`, formOf(property), property.description ?? ""];
    return name === "done" && depth > 2 ? [row] : [row, ...rowsOf(inside, depth + 1)];
  });
}

/** What has fields of its own: an object, each of a list, or each value of a table by names. */
function innerOf({ items, additionalProperties, patternProperties, ...property }) {
  const values = additionalProperties || Object.values(patternProperties ?? {})[0];
  return items ?? (typeof values === "object" ? values : property);
}

/** What may be one of several: the fields of all of them together, once each. A form within “apart” is said once, above. */
function merged(schema = {}) {
  const forms = schema.oneOf ?? schema.anyOf;
  if (!forms) return schema;
  const objects = forms.filter((one) => one.properties && !isApart(one)).map(merged);
  const properties = {};
  for (const one of objects)
    for (const [name, property] of Object.entries(one.properties))
      properties[name] = properties[name] ? together(properties[name], property) : property;
  const required = objects.length === 0 ? [] : objects.map((one) => one.required ?? []).reduce(common);
  return { ...schema, properties, required };
}

function isApart({ properties }) {
  return properties.form?.const === "apart" || properties.form?.enum?.includes("apart");
}

/** The same field in two forms. */
function together(one, other) {
  if (one.const !== undefined || one.enum) {
    const values = [...new Set([...(one.enum ?? [one.const]), ...(other.enum ?? [other.const])])];
    return { ...one, const: undefined, enum: values };
  }
  if (!one.properties || !other.properties) return one.properties ? one : other.properties ? other : one;
  return {
    ...one,
    properties: { ...one.properties, ...other.properties },
    required: common(one.required ?? [], other.required ?? []),
  };
}

const common = (one, other) => one.filter((name) => other.includes(name));

/** "1 to 10", "`on`, `off`", "list" */
function formOf({ const: only, enum: values, type, anyOf, ...rest }) {
  if (only !== undefined || values) return (values ?? [only]).map((one) => `\`${one}\``).join(", ");
  if (anyOf) return [...new Set(anyOf.map(formOf).filter(Boolean))].join(" or ");
  const types = [type].flat().filter(Boolean);
  return types.map((one) => NAMES[one]?.(rest) ?? one).join(" or ");
}

const numbers =
  (name) =>
  ({ minimum, maximum }) =>
    minimum === undefined ? name : `${name}, ${minimum} to ${maximum}`;

const NAMES = {
  integer: numbers("whole number"),
  number: numbers("number"),
  array: () => "list",
  boolean: () => "`true`, `false`",
  string: () => "text",
  null: () => "`null`",
};
