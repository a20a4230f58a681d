// `npm run reference`: writes anew what is made of the code: JSON Schemas (draft 2020-12) of the files that people write, the description
// of the HTTP API (OpenAPI 3.1), and the pages in docs/reference. Tests find them stale.
import { mkdirSync, writeFileSync } from "node:fs";
import { fileSchemas } from "../packages/api/src/schema/index.ts";
import { interfaceDescription } from "./interface.mjs";
import { referencePages } from "./reference/pages.mjs";

const json = (value) => `${JSON.stringify(value, null, 2)}\n`;

mkdirSync("docs/schemas", { recursive: true });
for (const [name, schema] of Object.entries(fileSchemas()))
  writeFileSync(`docs/schemas/${name}.schema.json`, json(schema));
writeFileSync("packages/api/openapi.json", json(interfaceDescription()));
for (const [file, text] of Object.entries(referencePages())) writeFileSync(file, text);
