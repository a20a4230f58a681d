/** `bold-relay say`: a phrase, as people say it: read, done, and answered with what became of it. */
import type { RehearsalView, RehearsedAskView } from "@bold-relay/api";
import { Command, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

const WAIT_S = 20;

export const sayCommand = new Command("say")
  .description("make a request in your own words and wait for the outcome")
  .argument("<words...>", "a phrase; “and” joins several requests")
  .addOption(new Option("--rehearse", "show how it is understood and what would be sent; send nothing"))
  .addHelpText(
    "after",
    `
Nothing is guessed. If one word is not known, nothing of the phrase is sent.

Examples:
  bold-relay say turn on the porch lantern in wren
  bold-relay say all lights in wren off except the path lights
  bold-relay say dining dimmer to half and towel rail in wren on for 20 minutes
  bold-relay say "what is on in finch?"
  bold-relay say everything in plover off --rehearse`,
  )
  .action(async (words: string[], { rehearse }: { rehearse?: boolean }, command: Command) => {
    const { client, json } = connectionOf(command);
    const text = words.join(" ");
    if (rehearse) {
      const view = await client.rehearsePhrase(text);
      return json ? printJson(view) : printRehearsal(view);
    }
    const heard = await client.say(text, WAIT_S);
    process.exitCode = ["delivered", "answered", "ignored"].includes(heard.outcome) ? EXIT.reached : EXIT.notReached;
    if (json) return printJson(heard);
    printUsed(heard.requests[0]?.said?.used ?? [], "");
    printLine(heard.outcome === "not-understood" ? wrong(heard.reply) : heard.reply);
    for (const { id } of heard.requests) printLine(faint(`bold-relay trace ${id}`));
  });

/** Which words gave what; those that mean just what they say are left out. */
export function printUsed(used: readonly { words: string; gave: string }[], indent: string): void {
  for (const { words, gave } of used) if (words !== gave) printLine(faint(`${indent}${words} → ${gave}`));
}

/** How it is read, what would be sent, what would be said. */
export function printRehearsal({ would, route, routeName, used, asks, reply }: RehearsalView): void {
  const caught = route === null ? "" : `, by route ${route}${routeName ? ` (${routeName})` : ""}`;
  printLine(bold(would === "act" ? `This would be sent${caught}:` : `Nothing would be sent${caught}.`));
  printUsed(used, "  ");
  for (const ask of asks) printRehearsedAsk(ask);
  if (asks.length === 0 && reply !== "") printLine(`It would answer: ${reply}`);
}

/** What one ask would send, line by line; and why it would be refused. */
export function printRehearsedAsk({ target, action, value, refusal, sends }: RehearsedAskView): void {
  printLine(`${action} ${target}${value === null ? "" : ` ${value}`}`);
  for (const one of sends) printLine(`  ${one.name} → ${one.to}  ${faint(`${one.topic}  ${one.payload}`)}`);
  if (refusal !== null) printLine(`  ${wrong(refusal)}`);
}
