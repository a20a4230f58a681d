/** `bold-relay save`, `check` and `load`: a whole installation as a folder of files, for version control. */
import { type Client, deleteDescription, saveDescription } from "@bold-relay/api";
import { counted } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { installedAt, writeFolder } from "../description-folder.ts";
import { EXIT } from "../exit.ts";
import { type FolderPlan, type PlannedFile, planOf } from "../folder-plan.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

/** Most changes of one file that are listed. */
const MOST_SHOWN = 12;

export const saveCommand = new Command("save")
  .argument("<folder>")
  .description("write all profiles, sites, inlets and notifications to a folder, one file each; no secrets")
  .action(async (folder: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const files = await writeFolder(folder, await installedAt(client));
    if (json) for (const file of files) printJson({ file });
    else printLine(`${counted(files.length, "file")} written to ${bold(folder)}.`);
  });

export const checkCommand = new Command("check")
  .argument("<folder>")
  .description("show errors in the files of a folder, and what loading them would change; change nothing")
  .addHelpText(
    "after",
    `
A folder has profiles/, sites/, inlets/ and notifications/, with a YAML or JSON file each.

Examples:
  bold-relay save site-files        begin with what the service has
  bold-relay check site-files       what is wrong, and what would change
  bold-relay load site-files        change it

Exit codes: 0 it can be loaded, 1 it has errors`,
  )
  .action(async (folder: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const plan = await planOf(client, folder);
    print(plan, json);
    if (errorsIn(plan) > 0) process.exitCode = EXIT.notReached;
  });

export const loadCommand = new Command("load")
  .argument("<folder>")
  .description("load what the files of a folder change; stops at the first error, and shows what is done")
  .option("--delete", "also delete sites, inlets and notifications that are in no file")
  .action(async (folder: string, { delete: deletes = false }: { delete?: boolean }, command: Command) => {
    const { client, json } = connectionOf(command);
    const plan = await planOf(client, folder);
    const errors = errorsIn(plan);
    if (errors > 0) {
      print(plan, json);
      process.exitCode = EXIT.notReached;
      return;
    }
    const done = await load(client, plan, deletes, (line) => {
      if (!json) printLine(line);
    });
    if (json) printJson({ done });
    else printLine(done === 0 ? "Nothing to change." : `${inEffect(done)}.`);
  });

/** Each change only if nobody else made one since it was planned. @returns how many were made */
async function load(client: Client, plan: FolderPlan, deletes: boolean, say: (line: string) => void): Promise<number> {
  let done = 0;
  for (const { file, change, version } of plan.files) {
    if (change === "same") continue;
    await saveDescription(client, file.kind, file.body, version).catch((error: unknown) => {
      if (done > 0) say(`${inEffect(done)}. They were made before this error and stay.`);
      throw error;
    });
    done += 1;
    say(`  ${change === "new" ? "+" : "~"} ${file.kind} ${bold(file.slug)}`);
  }
  // What depends on something goes before it.
  for (const other of deletes ? [...plan.others].reverse() : []) {
    await deleteDescription(client, other.kind, other.slug, other.version);
    done += 1;
    say(`  - ${other.kind} ${bold(other.slug)}`);
  }
  return done;
}

/** @example inEffect(1) // → "1 change is in effect" */
function inEffect(done: number): string {
  return `${counted(done, "change")} ${done === 1 ? "is" : "are"} in effect`;
}

function errorsIn({ files }: FolderPlan): number {
  return files.reduce((sum, { errors }) => sum + errors.length, 0);
}

function print({ files, others }: FolderPlan, json: boolean): void {
  if (json) {
    for (const { file, change, changes, reach, errors } of files)
      printJson({ kind: file.kind, slug: file.slug, file: file.file, change, changes, reach, errors });
    return;
  }
  for (const one of files) printPlanned(one);
  const changed = files.filter(({ change }) => change !== "same").length;
  if (changed === 0) printLine("Nothing would change.");
  if (others.length > 0)
    printLine(faint(`In no file, and left as it is: ${others.map(({ kind, slug }) => `${kind} ${slug}`).join(", ")}.`));
}

function printPlanned({ file, change, changes, reach, errors }: PlannedFile): void {
  if (change === "same" && errors.length === 0) return;
  printLine(`  ${change === "new" ? "+" : "~"} ${file.kind} ${bold(file.slug)}`);
  for (const { place, from, to } of changes.slice(0, MOST_SHOWN))
    printLine(faint(`      ${place}: ${from ?? "nothing"} → ${to ?? "nothing"}`));
  if (changes.length > MOST_SHOWN) printLine(faint(`      and ${changes.length - MOST_SHOWN} more`));
  for (const line of reach.slice(0, MOST_SHOWN)) printLine(`      → ${line}`);
  if (reach.length > MOST_SHOWN) printLine(faint(`      and ${reach.length - MOST_SHOWN} more`));
  for (const error of errors) printLine(`      ${wrong("✗")} ${error}`);
}
