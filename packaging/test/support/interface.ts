/** The API of an installation against the document that it ships: every reading call answers, and as described. */
import { Ajv2020 } from "ajv/dist/2020.js";
import type { Person } from "./person.ts";

interface Document {
  readonly paths: Readonly<Record<string, { readonly get?: { readonly responses?: Responses } }>>;
}
type Responses = Readonly<Record<string, { readonly content?: Readonly<Record<string, object>> }>>;

/**
 * @param names what stands in the place of names in paths
 * @returns what is not as the document says, in words
 */
export async function interfaceTrouble(person: Person, names: Readonly<Record<string, string>>): Promise<string[]> {
  const answer = await person.call("GET", "/openapi.json");
  if (answer.status !== 200) return [`GET /openapi.json answered ${answer.status}: ${await answer.text()}`];
  const document = (await answer.json()) as Document;
  const ajv = new Ajv2020({ strict: false });
  ajv.addSchema(document, "interface");
  const troubles: string[] = [];
  for (const [path, { get }] of Object.entries(document.paths)) {
    const content = get?.responses?.["200"]?.content;
    // Streams never end, and what is not JSON has no schema.
    if (!content || !("application/json" in content) || !path.startsWith("/api/v1/")) continue;
    const address = path.slice("/api/v1".length).replace(/\{(\w+)\}/g, (_, name: string) => names[name] ?? "none");
    const said = await person.call("GET", address);
    const body: unknown = await said.json();
    const pointer = path.replaceAll("~", "~0").replaceAll("/", "~1");
    const schema =
      said.status === 200
        ? `interface#/paths/${encodeURIComponent(pointer)}/get/responses/200/content/application~1json/schema`
        : "interface#/components/schemas/Problem";
    const check = ajv.getSchema(schema);
    if (said.status >= 500) troubles.push(`GET ${address} answered ${said.status}: ${JSON.stringify(body)}`);
    else if (!check?.(body)) troubles.push(`GET ${address}: ${ajv.errorsText(check?.errors)}`);
  }
  return troubles;
}
