/** The description of the interface (OpenAPI 3.1), as it is shipped. */
import { fileURLToPath } from "node:url";
import type { Router } from "express";
import type { HttpDeps } from "../deps.ts";

const FILE = fileURLToPath(import.meta.resolve("@bold-relay/api/openapi.json"));

export function interfaceRoutes({ guard }: Pick<HttpDeps, "guard">): Router {
  return guard.routes({
    "GET /openapi.json": (_req, res) => {
      res.sendFile(FILE);
    },
  });
}
