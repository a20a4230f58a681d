/** The description of the interface (OpenAPI 3.1), as it is shipped. */
import { fileURLToPath } from "node:url";
import type { Router } from "express";
import type { HttpParts } from "../parts.ts";
import { guardedRouter } from "../permissions.ts";

const FILE = fileURLToPath(import.meta.resolve("@bold-relay/api/openapi.json"));

export function interfaceRoutes({ pool }: HttpParts): Router {
  return guardedRouter(pool, {
    "GET /openapi.json": (_req, res) => {
      res.sendFile(FILE);
    },
  });
}
