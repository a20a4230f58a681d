// The reference of the HTTP API's calls: the table that the service checks them by.
import { operations } from "../../packages/api/src/schema/index.ts";
import { heading, page, table } from "./markdown.mjs";

const RECENT = {
  always: "recent sign-in",
  "with-second-factor": "recent sign-in if you have a second factor",
  "or-export-key": "recent sign-in, or a key created for exports",
};
const ACCESS = { anyone: "anyone", member: "signed in" };

export function callsPage() {
  const byResource = grouped(Object.entries(operations));
  return page(
    "Calls of the HTTP API",
    [
      "All paths are below `/api/v1`. *Right* is what the caller needs at one site at least: [HTTP API](http-api.md) says which role has it.",
      "*Recent sign-in*: a session whose password, and second factor if there is one, was shown within the last 15 minutes. A key is refused.",
      "`name?` may be left out. Types and limits of every field: [openapi.json](../../packages/api/openapi.json).",
    ].join("\n"),
    ...[...byResource].map(([resource, calls]) => `## ${heading(resource)}\n\n${tableOf(calls)}`),
  );
}

function resourceOf([call]) {
  return /^\w+ \/([a-z-]+)/.exec(call)?.[1] ?? "other";
}

function grouped(entries) {
  const groups = new Map();
  for (const entry of entries) groups.set(resourceOf(entry), [...(groups.get(resourceOf(entry)) ?? []), entry]);
  return groups;
}

function tableOf(calls) {
  return table(
    ["call", "right", "what it does", "query or body"],
    calls.map(([call, { right, recentSignIn, about, query, body, waits, versioned }]) => [
      `\`${call}\``,
      [ACCESS[right] ?? right, recentSignIn && RECENT[recentSignIn]].filter(Boolean).join("; "),
      [about, waits && "`Prefer: wait=N`", waits === "once" && "`Idempotency-Key`", versioned && "`If-Match`"]
        .filter(Boolean)
        .join(". "),
      fieldsOf(body ?? query),
    ]),
  );
}

function fieldsOf(schema) {
  const keys = schema?.describe().keys ?? {};
  return Object.entries(keys)
    .map(([name, { flags }]) => `\`${name}${flags?.presence === "required" ? "" : "?"}\``)
    .join(", ");
}
