/** A verb that is not there is an error, also beside `--help`: else a misspelt verb looks like one that exists. */
import { nearestWords } from "@bold-relay/core";
import type { Command } from "commander";
import { UsageError } from "./problem-text.ts";
import { ALL_VERBS } from "./verbs.ts";

/**
 * @param words of the command line, without the program's own name
 * @throws UsageError with the nearest verbs
 */
export function refuseUnknown(program: Command, words: readonly string[]): void {
  const said = verbsIn(program, words);
  const [first, ...rest] = said[0] === "help" ? said.slice(1) : said;
  if (first === undefined || first === "help") return;
  const verb = program.commands.find((one) => one.name() === first);
  if (!verb) throw unknown("bold-relay", first, ALL_VERBS);
  const inner = verb.commands.map((one) => one.name());
  const [next] = rest;
  // Where a verb takes arguments of its own, a word may be one of them.
  const list = verb.commands.find((one) => one.name() === "list");
  const takesWords = [verb, list].some((one) => (one?.registeredArguments.length ?? 0) > 0);
  if (next === undefined || inner.length === 0 || takesWords || next === "help" || inner.includes(next)) return;
  throw unknown(`bold-relay ${first}`, next, inner);
}

function unknown(before: string, word: string, known: readonly string[]): UsageError {
  const nearest = nearestWords(word, known).map((one) => `${before} ${one}`);
  return new UsageError(`${before} has no command “${word}”. See: ${before} --help.`, nearest);
}

/** The words that are neither options nor their values. */
function verbsIn(program: Command, words: readonly string[]): string[] {
  const found: string[] = [];
  let command = program;
  for (let place = 0; place < words.length; place += 1) {
    const word = words[place] ?? "";
    if (word === "--") break;
    if (!word.startsWith("-")) {
      found.push(word);
      command = command.commands.find((one) => one.name() === word) ?? command;
    } else if (!word.includes("=") && takesValue(command, word)) place += 1;
  }
  return found;
}

function takesValue(command: Command, flag: string): boolean {
  for (let one: Command | null = command; one !== null; one = one.parent) {
    const option = one.options.find(({ long, short }) => long === flag || short === flag);
    if (option) return option.required || option.optional;
  }
  return false;
}
