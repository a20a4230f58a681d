// `npm run schemas`: writes anew what is made of the schemas that the service checks with: JSON Schemas (draft 2020-12) of the files that
// people write, in docs/schemas, and the description of the interface (OpenAPI 3.1), packages/api/openapi.json. Tests find them stale.
import { mkdirSync, writeFileSync } from "node:fs";
import { fileSchemas } from "../packages/api/dist/schema/index.js";
import { interfaceDescription } from "./interface.mjs";

mkdirSync("docs/schemas", { recursive: true });
for (const [name, schema] of Object.entries(fileSchemas())) {
  writeFileSync(`docs/schemas/${name}.schema.json`, `${JSON.stringify(schema, null, 2)}\n`);
}
writeFileSync("packages/api/openapi.json", `${JSON.stringify(interfaceDescription(), null, 2)}\n`);
