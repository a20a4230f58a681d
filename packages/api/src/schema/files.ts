/** JSON Schemas of the files that people write: made of what checks them, so that the two cannot part. */
import type Joi from "joi";
import { fieldDescriptions } from "./field-descriptions.ts";
import { formsMarked } from "./forms.ts";
import { inletFileSchemas } from "./inlet.ts";
import { menu } from "./inlet-settings.ts";
import { notificationSchema } from "./notification.ts";
import { setupFileSchema } from "./setup-file.ts";
import { shared } from "./share.ts";
import { profileSchema, siteSchema } from "./site.ts";

const DRAFT = "https://json-schema.org/draft/2020-12/schema";

/** By the name of the file. What a schema cannot say, like names that must exist, only the service checks. */
export function fileSchemas(): Record<string, object> {
  return Object.fromEntries(Object.entries(wholeFileSchemas()).map(([name, schema]) => [name, shared(schema)]));
}

/** The same with everything in its place, for whoever lists the fields. */
export function wholeFileSchemas(): Record<string, object> {
  const kinds = inletFileSchemas.map(described);
  return {
    site: { $schema: DRAFT, title: "A site of Bold Relay", ...described(siteSchema) },
    profile: { $schema: DRAFT, title: "A profile of Bold Relay", ...described(profileSchema) },
    inlet: { $schema: DRAFT, title: "An inlet of Bold Relay", oneOf: kinds, $defs: { phone: described(menu) } },
    notification: { $schema: DRAFT, title: "A notification of Bold Relay", ...described(notificationSchema) },
    setup: { $schema: DRAFT, title: "What an installation of Bold Relay begins with", ...described(setupFileSchema) },
  };
}

function described(schema: Joi.Schema): object {
  return withDescriptions(jsonSchema(schema), []) as object;
}

/** Each property with what it means. */
function withDescriptions(node: unknown, path: readonly string[]): unknown {
  if (Array.isArray(node)) return node.map((one) => withDescriptions(one, path));
  if (typeof node !== "object" || node === null) return node;
  return Object.fromEntries(
    Object.entries(node).map(([key, value]) =>
      key === "properties" ? [key, propertiesDescribed(value, path)] : [key, withDescriptions(value, path)],
    ),
  );
}

function propertiesDescribed(properties: Record<string, object>, path: readonly string[]): object {
  return Object.fromEntries(
    Object.entries(properties).map(([name, property]) => {
      const inside = [...path, name];
      const description = fieldDescriptions[descriptionKey(inside) ?? ""];
      return [name, { ...(description && { description }), ...(withDescriptions(property, inside) as object) }];
    }),
  );
}

/**
 * The longest end of a path that has a description; undefined where none has.
 *
 * @example descriptionKey(["rooms", "devices", "profile"]) // → "devices/profile"
 */
export function descriptionKey(path: readonly string[]): string | undefined {
  const ends = path.map((_, from) => path.slice(from).join("/"));
  return [`/${ends[0]}`, ...ends].find((end) => Object.hasOwn(fieldDescriptions, end));
}

interface Convertible {
  readonly "~standard": { readonly jsonSchema: { input(options: { target: "draft-2020-12" }): object } };
}

/** JSON Schema (draft 2020-12) of what a schema takes. */
export function jsonSchema(schema: Joi.Schema): object {
  const { $defs: _, ...made } = (schema as unknown as Convertible)["~standard"].jsonSchema.input({
    target: "draft-2020-12",
  }) as Record<string, unknown>;
  return withForms(made) as object;
}

/** What Joi checks by a function of ours says nothing in a schema: its forms are put there. */
function withForms(node: unknown): unknown {
  if (Array.isArray(node)) return node.map(withForms);
  if (typeof node !== "object" || node === null) return node;
  const forms = formsMarked((node as { description?: unknown }).description);
  if (forms) return { anyOf: forms.map(jsonSchema) };
  return Object.fromEntries(Object.entries(node).map(([name, value]) => [name, withForms(value)]));
}
