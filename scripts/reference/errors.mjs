// The reference of errors: the catalogue, row by row.
import { errorCatalogue } from "../../packages/core/src/index.ts";
import { page, table } from "./markdown.mjs";

export function errorsPage() {
  return page(
    "Errors",
    [
      "Every refusal is a problem document (RFC 9457, `application/problem+json`) with a `code` that never changes its meaning.",
      "Programs test `code`. People read `detail`: it says what happened and what to do. Where *try again* is yes, `retryable` is",
      "true, the same call may succeed later, and the answer has `Retry-After`.",
      "",
      "The refusal of a permitted caller's request (status 422) is kept in the database: `request` is its id, and `nearest` lists",
      "the nearest valid choices. `{…}` in a sentence is filled in.",
    ].join("\n"),
    table(
      ["code", "status", "try again", "title", "sentence"],
      Object.entries(errorCatalogue).map(([code, { status, retryable, title, sentence }]) => [
        `\`${code}\``,
        status,
        retryable ? "yes" : "no",
        title,
        sentence,
      ]),
    ),
  );
}
