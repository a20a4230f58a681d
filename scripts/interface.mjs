// The description of the interface: the table of calls, with JSON Schemas of the views made of their types.
import { fileURLToPath } from "node:url";
import { createGenerator } from "ts-json-schema-generator";
import { openApi } from "../packages/api/src/schema/index.ts";

const api = (file) => fileURLToPath(new URL(`../packages/api/${file}`, import.meta.url));

export function interfaceDescription() {
  const generator = createGenerator({
    path: api("src/index.ts"),
    tsconfig: api("tsconfig.json"),
    skipTypeCheck: true,
    expose: "export",
    additionalProperties: true,
    jsDoc: "basic",
  });
  return openApi(asComponents(viewsIn(generator)));
}

/** What is answered: views, pages, replies and problems, with all that they are made of. */
function viewsIn(generator) {
  const { definitions } = generator.createSchema("*");
  const wanted = new Set();
  const want = (name) => {
    if (wanted.has(name) || !definitions[name]) return;
    wanted.add(name);
    for (const [, inside] of JSON.stringify(definitions[name]).matchAll(/#\/definitions\/([^"]+)/g))
      want(decodeURIComponent(inside));
  };
  for (const name of Object.keys(definitions)) if (/^[A-Z]\w*(View|Page|Reply)$|^Problem$/.test(name)) want(name);
  return Object.fromEntries([...wanted].sort().map((name) => [name, definitions[name]]));
}

/** Names as components may have them (OpenAPI 3.1, 4.8.7.1), in the words of draft 2020-12. */
function asComponents(views) {
  const plain = (name) => decodeURIComponent(name).replace(/[^\w.-]+/g, "_");
  const text = JSON.stringify(views).replace(
    /#\/definitions\/([^"]+)/g,
    (_, name) => `#/components/schemas/${plain(name)}`,
  );
  return Object.fromEntries(Object.entries(JSON.parse(text)).map(([name, schema]) => [plain(name), modern(schema)]));
}

/** A list of certain things in a certain order has another name since draft 2020-12. */
function modern(node) {
  if (Array.isArray(node)) return node.map(modern);
  if (typeof node !== "object" || node === null) return node;
  const { items, ...rest } = node;
  const told = Array.isArray(items) ? { prefixItems: items } : items === undefined ? {} : { items };
  return Object.fromEntries(Object.entries({ ...rest, ...told }).map(([name, value]) => [name, modern(value)]));
}
