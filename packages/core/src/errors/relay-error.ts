/** An error of the catalogue with its facts. Callers test `code`, never the text. */
import { type ErrorCode, type ErrorKind, errorCatalogue } from "./catalogue.ts";

export type { ErrorCode };

export interface ErrorFacts {
  readonly [fact: string]: string | number | readonly string[];
}

export class RelayError extends Error {
  readonly code: ErrorCode;
  readonly facts: ErrorFacts;

  constructor(code: ErrorCode, facts: ErrorFacts = {}, options?: { cause?: unknown }) {
    super(sentenceFor(code, facts), options);
    this.name = "RelayError";
    this.code = code;
    this.facts = facts;
  }

  get kind(): ErrorKind {
    return errorCatalogue[this.code];
  }
}

function sentenceFor(code: ErrorCode, facts: ErrorFacts): string {
  const choices = facts.nearest;
  const filled: ErrorFacts = {
    ...facts,
    choices: Array.isArray(choices) ? offer(LEAD[code] ?? "Nearest", choices) : "",
  };
  return errorCatalogue[code].sentence
    .replace(/\{(\w+)\}/gu, (_, fact: string) => String(filled[fact] ?? `{${fact}}`))
    .trim();
}

/** How the choices are introduced, where they are not just near. */
const LEAD: Partial<Record<ErrorCode, string>> = { "ambiguous-name": "Say which", "unknown-action": "It takes" };

/** @example offer("Nearest", ["a", "b", "c"]) // → "Nearest: a, b or c." */
function offer(lead: string, choices: readonly string[]): string {
  const last = choices.at(-1);
  if (last === undefined) return "Nothing has a name like it.";
  const rest = choices.slice(0, -1);
  return rest.length === 0 ? `${lead}: ${last}.` : `${lead}: ${rest.join(", ")} or ${last}.`;
}
