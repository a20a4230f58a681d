// `npm run schemas`: writes docs/schemas anew, JSON Schemas (draft 2020-12) of the files that people write. Editors check with
// them as one types; the service checks more than a schema can say. A test finds them stale.
import { mkdirSync, writeFileSync } from "node:fs";
import { fileSchemas } from "../packages/api/dist/schema/index.js";

mkdirSync("docs/schemas", { recursive: true });
for (const [name, schema] of Object.entries(fileSchemas())) {
  writeFileSync(`docs/schemas/${name}.schema.json`, `${JSON.stringify(schema, null, 2)}\n`);
}
