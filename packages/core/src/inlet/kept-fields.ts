/** What is kept of a document that came: what some route or setting looks at, and nothing that only passed through. */
import { lookUp } from "../codec/pointer.ts";
import { inletKinds } from "./kind/index.ts";
import type { InletDescription } from "./model.ts";

const PLACES = ["text", "sender", "room", "name"] as const;

/** The places that an inlet looks at (JSON Pointers); null: everything that comes is asked for. */
export function usedPointers({ kind, routes = [], settings = {} }: InletDescription): readonly string[] | null {
  if (!inletKinds[kind].foreign) return null;
  const ofRoutes = routes.flatMap(({ when }) => ("fields" in when ? Object.keys(when.fields) : []));
  const ofSettings = PLACES.flatMap((name) => {
    const pointer = settings[name];
    return typeof pointer === "string" ? [pointer] : [];
  });
  // A CloudEvent is known again by these (CloudEvents 1.0, 3.1.1).
  return [...new Set([...ofRoutes, ...ofSettings, "/specversion", "/source", "/id"])];
}

/**
 * A document with only these places of it, each where it was.
 *
 * @example keptFields({ a: { b: 1, c: 2 }, d: 3 }, ["/a/b"]) // → { a: { b: 1 } }
 */
export function keptFields(document: unknown, pointers: readonly string[] | null): unknown {
  if (pointers === null || typeof document !== "object" || document === null) return document;
  const kept: Record<string, unknown> = {};
  for (const pointer of pointers) {
    const found = lookUp(document, pointer);
    if (["string", "number", "boolean"].includes(typeof found)) put(kept, pointer.split("/").slice(1), found);
  }
  return Object.keys(kept).length === 0 ? null : kept;
}

function put(into: Record<string, unknown>, [first = "", ...rest]: readonly string[], value: unknown): void {
  const name = first.replaceAll("~1", "/").replaceAll("~0", "~");
  if (rest.length === 0) {
    define(into, name, value);
    return;
  }
  const known = Object.hasOwn(into, name) ? into[name] : undefined;
  const inner = typeof known === "object" && known !== null ? (known as Record<string, unknown>) : {};
  define(into, name, inner);
  put(inner, rest, value);
}

/** The names come from outside: none may be taken for a property of every object. */
function define(into: Record<string, unknown>, name: string, value: unknown): void {
  Object.defineProperty(into, name, { value, enumerable: true, configurable: true, writable: true });
}
