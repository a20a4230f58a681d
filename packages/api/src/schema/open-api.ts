/** The description of the interface (OpenAPI 3.1), made of the table of calls, of what checks their bodies, and of the views. */
import { SITE_PARTS } from "@bold-relay/core";
import type Joi from "joi";
import { VERSION } from "../ask.ts";
import { jsonSchema } from "./files.ts";
import { type Answer, type Operation, operations, otherOperations } from "./operations.ts";
import { sharedParts } from "./share.ts";

const SCHEMAS = "#/components/schemas/";

/** What no type of the views says. */
const SMALL_VIEWS = {
  VersionView: { type: "object", required: ["version"], properties: { version: { type: "integer" } } },
  AskedView: { anyOf: [{ $ref: "#/components/schemas/RequestView" }, { $ref: "#/components/schemas/BriefView" }] },
  SignedInView: {
    anyOf: [{ $ref: "#/components/schemas/SessionView" }, { $ref: "#/components/schemas/SecondFactorView" }],
  },
  PhraseView: { anyOf: [{ $ref: "#/components/schemas/InletReply" }, { $ref: "#/components/schemas/RehearsalView" }] },
  StandingView: {
    type: "object",
    required: ["name", "role", "sites"],
    properties: { name: { type: "string" }, role: { type: ["string", "null"] }, sites: { type: "object" } },
  },
  JsonSchemaView: { type: "object", required: ["$schema"] },
  OpenApiView: { type: "object", required: ["openapi", "paths"] },
  LiveView: {
    type: "object",
    required: ["alive", "version", "build"],
    properties: { alive: { const: true }, version: { type: "string" }, build: { type: ["string", "null"] } },
  },
  ReadyView: {
    type: "object",
    required: ["ready", "waitsFor"],
    properties: {
      ready: { type: "boolean" },
      waitsFor: { type: "array", items: { enum: ["broker", "database"] } },
      trouble: { type: "string", description: "What is wrong with the database and what to do; left out: nothing is." },
    },
  },
};

/** @param views JSON Schemas of the views by their names, with references as this document has them */
export function openApi(views: Readonly<Record<string, object>>): object {
  const paths: Record<string, Record<string, object>> = {};
  const all = [
    ...Object.entries(operations).map(([name, operation]) => ["/api/v1", name, operation] as const),
    ...Object.entries(otherOperations).map(([name, operation]) => ["", name, operation] as const),
  ];
  for (const [root, name, operation] of all) {
    const [method = "", path = ""] = name.split(" ");
    const address = root + path.replace(/:(\w+)/g, "{$1}");
    paths[address] = { ...paths[address], [method.toLowerCase()]: described(name, path, operation) };
  }
  const { short, parts } = sharedParts(paths, SCHEMAS);
  return {
    openapi: "3.1.0",
    info: {
      title: "Bold Relay",
      version: VERSION,
      description:
        "Every request ends in a stated outcome. Words and rules: docs/reference/http-api.md; errors: docs/reference/errors.md.",
      license: { name: "Unlicensed", identifier: "UNLICENSED" },
    },
    servers: [{ url: "http://127.0.0.1:4180" }],
    security: [{ key: [] }, { session: [] }],
    paths: short,
    components: {
      schemas: { ...views, ...SMALL_VIEWS, ...parts },
      securitySchemes: {
        key: { type: "http", scheme: "bearer" },
        session: { type: "apiKey", in: "cookie", name: "relay_desk" },
      },
    },
  };
}

function described(
  name: string,
  path: string,
  { right, recentSignIn, about, query, body, answers, waits, versioned }: Operation,
): object {
  const isOpen = right === "anyone" && !path.startsWith("/in/");
  return {
    summary: about,
    "x-right": right,
    ...(recentSignIn ? { "x-recent-sign-in": recentSignIn } : {}),
    operationId: name
      .toLowerCase()
      .replace(/[^a-z]+/g, "-")
      .replace(/-$/, ""),
    ...(isOpen ? { security: [] } : path.startsWith("/in/") ? { security: [{ key: [] }] } : {}),
    parameters: [
      ...inPath(path),
      ...inQuery(query),
      ...(waits ? [WAITING] : []),
      ...(waits === "once" ? ASKING : []),
      ...(versioned ? VERSIONED : []),
    ],
    ...(body ? { requestBody: { required: true, content: { "application/json": { schema: jsonSchema(body) } } } } : {}),
    responses: {
      ...Object.fromEntries(
        Object.entries(answers).map(([status, answer]) => [status, answered(Number(status), answer)]),
      ),
      default: {
        description: "A problem (RFC 9457)",
        content: { "application/problem+json": { schema: { $ref: "#/components/schemas/Problem" } } },
      },
    },
  };
}

const WAITING = {
  name: "Prefer",
  in: "header",
  schema: { type: "string" },
  description: "wait=N: how long the answer may wait for the outcome, s (RFC 7240); of an ask also return=minimal",
};
const ASKING = [
  {
    name: "Idempotency-Key",
    in: "header",
    schema: { type: "string", maxLength: 200 },
    description: "Makes a repeated call the same call, for 24 h",
  },
];
const VERSIONED = [
  {
    name: "If-Match",
    in: "header",
    schema: { type: "string" },
    description: 'The version that it was changed from: "12", or *',
  },
  { name: "If-None-Match", in: "header", schema: { const: "*" }, description: "It must be new" },
];

/** Parts of a path that are one of a few words. */
const CHOICES: Readonly<Record<string, readonly string[]>> = {
  form: ["csv", "jsonl"],
  part: SITE_PARTS.filter((part) => part !== "channels"),
  kind: ["site", "profile", "inlet", "notification"],
};

function inPath(path: string): object[] {
  return [...path.matchAll(/:(\w+)/g)].map(([, name = ""]) => {
    const choices = CHOICES[name];
    const schema = choices ? { enum: choices } : { type: name === "version" ? "integer" : "string" };
    return { name, in: "path", required: true, schema };
  });
}

function inQuery(query: Joi.Schema | undefined): object[] {
  const { properties = {} } = (query ? jsonSchema(query) : {}) as { properties?: Record<string, object> };
  return Object.entries(properties).map(([name, schema]) => ({ name, in: "query", schema }));
}

function answered(status: number, answer: Answer): object {
  const description =
    status === 202 ? "Accepted, and still open; Location says where to look" : status === 204 ? "Done" : "As asked";
  if (answer === null) return { description };
  if (typeof answer === "object" && "media" in answer)
    return {
      description,
      content: Object.fromEntries(answer.media.map((type) => [type, { schema: { type: "string" } }])),
    };
  const schema = typeof answer === "string" ? viewOf(answer) : { type: "array", items: viewOf(answer[0]) };
  return { description, content: { "application/json": { schema } } };
}

function viewOf(name: string): object {
  return { $ref: `${SCHEMAS}${name}` };
}
