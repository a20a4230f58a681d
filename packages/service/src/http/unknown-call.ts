/** A call of the API that there is not: another method at an address that exists, or an address that does not. */
import { operationNames } from "@bold-relay/api/schema";
import { RelayError } from "@bold-relay/core";
import type { RequestHandler } from "express";

/** Each address of the API, and the methods that it has (RFC 9110, 10.2.1). */
const addresses = new Map<string, { readonly pattern: RegExp; readonly methods: string[] }>();
for (const name of operationNames) {
  const [method = "", path = ""] = name.split(" ");
  const known = addresses.get(path) ?? { pattern: patternOf(path), methods: [] };
  // Whoever answers GET answers HEAD (RFC 9110, 9.3.2).
  known.methods.push(...(method === "GET" ? ["GET", "HEAD"] : [method]));
  addresses.set(path, known);
}

/** @example patternOf("/sites/:site/check") // → /^\/sites\/[^/]+\/check\/?$/ */
function patternOf(path: string): RegExp {
  const escaped = path.replace(/[.*+?^${}()|[\]\\]/g, "\\$&").replace(/:\w+/g, "[^/]+");
  return new RegExp(`^${escaped}/?$`);
}

/** The methods of an address; null: there is none like it. @example methodsAt("/status") // → ["GET", "HEAD"] */
export function methodsAt(path: string): readonly string[] | null {
  const found = [...addresses.values()].filter(({ pattern }) => pattern.test(path));
  return found.length === 0 ? null : [...new Set(found.flatMap(({ methods }) => methods))];
}

/** Stands behind all routes of the API. @throws RelayError wrong-method, with Allow, or not-found */
export const unknownCall: RequestHandler = (req, res) => {
  const methods = methodsAt(req.path);
  if (methods === null) throw new RelayError("not-found", { what: `The API address ${req.originalUrl.slice(0, 200)}` });
  res.setHeader("allow", methods.join(", "));
  throw new RelayError("wrong-method", { allowed: methods.join(", ") });
};
