/** `bold-relay attention`: what somebody should look at, one line for each cause; take it, note it, mute it, close it. */
import type { CareBody, Client, MatterView } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

export const attentionCommand = new Command("attention")
  .description("what somebody should look at: failing, gone, drifting, not understood, expiring")
  .option("--all", "closed and muted matters too")
  .addHelpText(
    "after",
    `
Each matter has a number in the list; it goes by itself when it is cured. Exit code 1 while there are any.

Examples:
  bold-relay attention
  bold-relay attention take 1
  bold-relay attention note 1 "fuse ordered, back on Friday"
  bold-relay attention mute 1 --hours 48
  bold-relay attention close 1          until it happens anew`,
  )
  .action(async ({ all = false }: { all?: boolean }, command: Command) => {
    const { client, json } = connectionOf(command);
    const matters = await client.attention(all);
    process.exitCode = matters.length === 0 ? EXIT.reached : EXIT.notReached;
    if (json) for (const one of matters) printJson(one);
    else if (matters.length === 0) printLine("Nothing needs attention.");
    else for (const [index, one] of matters.entries()) printMatter(one, index + 1);
  });

function printMatter({ title, text, since, takenBy, note, mutedUntil, closed }: MatterView, number: number): void {
  const ago = formatAgo(Date.now() - Date.parse(since));
  const state = [
    ...(takenBy === null ? [] : [`taken by ${takenBy}`]),
    ...(closed ? ["closed"] : []),
    ...(mutedUntil !== null && Date.parse(mutedUntil) > Date.now() ? [`muted until ${mutedUntil}`] : []),
  ];
  printLine(`${String(number).padStart(3)}  ${wrong(bold(title))}  ${faint([ago, ...state].join(", "))}`);
  printLine(`     ${text}`);
  if (note !== null) printLine(`     ${faint(`“${note}”`)}`);
}

verb("take <number>", "say that you look after it", () => ({ take: true }));
verb("release <number>", "let go of it", () => ({ take: false }));
verb("note <number> <words...>", "say something to the others", (words) => ({ note: words.join(" ") }));
verb("close <number>", "hide it until it happens anew", () => ({ close: true }));

attentionCommand
  .command("mute <number>")
  .description("hide it for a while")
  .option("--hours <h>", "for how long; 0 shows it again", Number, 24)
  .action(async (number: string, { hours }: { hours: number }, command: Command) => {
    await care(command, number, { muteHours: hours });
  });

function verb(usage: string, about: string, change: (words: string[]) => Partial<CareBody>): void {
  attentionCommand
    .command(usage)
    .description(about)
    .action(async (number: string, ...rest: unknown[]) => {
      const [words, , command] = rest.length === 3 ? rest : [[], null, rest[1]];
      await care(command as Command, number, change(words as string[]));
    });
}

async function care(command: Command, number: string, change: Partial<CareBody>): Promise<void> {
  const { client, json } = connectionOf(command);
  const { kind, subject } = await matterAt(client, number);
  const matter = await client.care({ kind, subject, ...change });
  if (json) printJson(matter);
  else printMatter(matter, Number(number));
}

async function matterAt(client: Client, number: string): Promise<MatterView> {
  const matters = await client.attention(true);
  const shown = matters.filter(
    ({ closed, mutedUntil }) => !closed && (mutedUntil === null || Date.parse(mutedUntil) <= Date.now()),
  );
  const matter = [...shown, ...matters.filter((one) => !shown.includes(one))][Number(number) - 1];
  if (!matter) throw new Error(`There is no matter ${number}. See: bold-relay attention`);
  return matter;
}
