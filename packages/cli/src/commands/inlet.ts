/** `bold-relay inlet`: the ways to ask: list, save, check by rehearsal, load, pause, delete. */
import { readFile, writeFile } from "node:fs/promises";
import type { InletView, PastView, TakenView, TrialView } from "@bold-relay/api";
import {
  type Arrival,
  exampleInlet,
  type Finding,
  formatAgo,
  formatDuration,
  INLET_KINDS,
  type InletDescription,
  shortened,
} from "@bold-relay/core";
import { Command } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { readDescription } from "../description-file.ts";
import { bold, faint, printJson, printLine, printText, wrong } from "../output.ts";
import { table } from "../table.ts";
import { addSecretAndLinks } from "./inlet-links.ts";
import { listenCommand } from "./inlet-listen.ts";
import { shareCommand } from "./inlet-share.ts";
import { printRehearsal } from "./say.ts";

/** Characters of a message; `--json` has all of it. */
const MOST_SHOWN = 240;

export const inletCommand = new Command("inlet")
  .description("list inlets; save, load, rehearse, try, pause and delete them")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay inlet                                             every inlet with its counts
  bold-relay inlet draft chat porch-chat > chat.yaml           a first description to edit
  bold-relay inlet save porch-chat chat.yaml                   a loaded inlet as a file
  bold-relay inlet rehearse porch-chat --text "porch on" --sender ana --room porch-room
  bold-relay inlet rehearse porch-chat --file chat.yaml --text "porch on"    use the routes in the file
  bold-relay inlet past porch-chat chat.yaml                   past arrivals by the routes in the file
  bold-relay inlet try porch-chat --text "porch on" --sender ana --room porch-room --key-file key.txt
  bold-relay inlet listen wall-buttons --target "porch lantern, finch" --action toggle    then press the button
  bold-relay inlet load chat.yaml                              load it; no restart is needed
  bold-relay key add phone-service --inlet porch-chat          a key for the caller; shown once
  bold-relay inlet pause porch-chat`,
  );

inletCommand
  .command("list", { isDefault: true })
  .description("list inlets with their counts of 24 hours")
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const inlets = await client.inlets();
    if (json) for (const one of inlets) printJson(one);
    else if (inlets.length === 0) printLine("No inlets yet. Load one from a file: bold-relay inlet load");
    else printInlets(inlets);
  });

function printInlets(inlets: readonly InletView[]): void {
  const rows = inlets.map(({ slug, kind, site, counts, lastAt, routes, ...more }) => [
    bold(slug),
    kind,
    site ?? "every site",
    String(routes),
    String(counts.day.arrivals),
    String(counts.day.notUnderstood),
    String(counts.day.refused + counts.day.unknownSenders),
    lastAt === null ? "never" : formatAgo(Date.now() - Date.parse(lastAt)),
    healthOf(more),
  ]);
  const head = [
    "inlet",
    "kind",
    "site",
    "routes",
    "arrivals 24 h",
    "not understood",
    "refused",
    "last arrival",
    "address",
  ];
  printLine(table(head, rows, [3, 4, 5, 6], { optional: [8, 3, 2] }));
}

function healthOf({
  paused,
  up,
  trouble,
  keys,
  address,
}: Pick<InletView, "paused" | "up" | "trouble" | "keys" | "address">): string {
  if (paused) return faint("paused");
  if (up === false) return wrong(trouble ?? "down");
  if (keys === 0 && address.startsWith("/")) return wrong("no key, so nobody can use it");
  return faint(address);
}

inletCommand
  .command("save <inlet> [file]")
  .description("write an inlet's description to a file, or to standard output")
  .action(async (slug: string, file: string | undefined, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const { inlet, version, findings } = await client.inlet(slug);
    if (file === undefined && json) return printJson(inlet);
    const text = json ? `${JSON.stringify(inlet)}\n` : `# ${inlet.name}, version ${version}\n${stringify(inlet)}`;
    if (file === undefined) return printText(text);
    await writeFile(file, text);
    printLine(`${bold(inlet.name)}: version ${version} is saved to ${file}.`);
    printFindings(findings);
  });

inletCommand
  .command("load <file>")
  .description("add an inlet, or change the one with the same slug; no restart is needed")
  .option("--at <version>", "only if the service has this version; 0: only if there is none", Number)
  .action(async (file: string, { at }: { at?: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const saved = await client.saveInlet((await readDescription(file)) as InletDescription, at ?? null);
    if (json) return printJson(saved);
    printFindings(saved.findings);
    printLine(`${bold(saved.inlet.name)}: version ${saved.version} is loaded.`);
  });

inletCommand
  .command("draft <kind> <inlet>")
  .description(`print a first description to edit; kinds: ${INLET_KINDS.join(", ")}`)
  .option("--site <site>", "only channels of this site can be requested")
  .option("--name <name>", "its name")
  .action((kind: string, slug: string, { site, name }: { site?: string; name?: string }) => {
    const known = INLET_KINDS.find((one) => one === kind);
    if (!known) throw new Error(`“${kind}” is no kind of inlet. Kinds: ${INLET_KINDS.join(", ")}.`);
    printText(stringify(exampleInlet(known, slug, name ?? slug, site ?? null)));
  });

for (const [verb, paused, words] of [
  ["pause", true, "pause an inlet: it rejects every arrival until it is resumed"],
  ["resume", false, "resume a paused inlet"],
] as const) {
  inletCommand
    .command(`${verb} <inlet>`)
    .description(words)
    .action(async (slug: string, _options: object, command: Command) => {
      const { client, json } = connectionOf(command);
      const { inlet, version } = await client.inlet(slug);
      const saved = await client.saveInlet({ ...inlet, paused }, version);
      if (json) printJson(saved);
      else
        printLine(`${bold(inlet.name)} ${paused ? "is paused: it rejects every arrival" : "accepts arrivals again"}.`);
    });
}

inletCommand
  .command("delete <inlet>")
  .description("delete an inlet with its keys; its requests stay in the log")
  .action(async (slug: string, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    await client.removeInlet(slug);
    printLine(`${bold(slug)} and its keys are deleted.`);
  });

addSecretAndLinks(inletCommand);
inletCommand.addCommand(listenCommand);
inletCommand.addCommand(shareCommand);

interface RehearseOptions {
  readonly text?: string;
  readonly topic?: string;
  readonly digits?: string;
  readonly channel?: string;
  readonly fields?: string;
  readonly sender?: string;
  readonly room?: string;
  readonly hex?: string;
  readonly file?: string;
}

/** Options that make up an arrival. */
function withArrival(command: Command): Command {
  return command
    .option("--text <words>", "a text message or a payload")
    .option("--hex <bytes>", "a binary payload in hexadecimal")
    .option("--fields <json>", "a JSON document")
    .option("--topic <topic>", "the topic of a message")
    .option("--digits <keys>", "pressed keys")
    .option("--channel <channel>", "an input of a device; --text says what it does: on, off, once, twice or long")
    .option("--sender <sender>", "name of the sender")
    .option("--room <room>", "room of a chat");
}

function arrivalFrom({ fields, text, hex, topic, digits, channel, sender, room }: RehearseOptions): Partial<Arrival> {
  const texts = { text, hex, topic, digits, channel, sender, room };
  const given = Object.entries(texts).filter(([, value]) => value !== undefined);
  return { ...Object.fromEntries(given), ...(fields === undefined ? {} : { fields: JSON.parse(fields) as unknown }) };
}

withArrival(inletCommand.command("rehearse <inlet>"))
  .description("show what an arrival would do; nothing is sent")
  .option("--file <file>", "use the inlet in this file instead of the loaded one")
  .action(async (slug: string, options: RehearseOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const { file } = options;
    const described = file === undefined ? {} : { inlet: (await readDescription(file)) as InletDescription };
    const view = await client.rehearse(slug, { ...described, arrival: arrivalFrom(options) });
    if (json) printJson(view);
    else printRehearsal(view);
  });

inletCommand
  .command("past <inlet> <file>")
  .description("run past arrivals through the inlet in a file, and show what would change; nothing is sent")
  .option("--most <n>", "number of arrivals, the newest first", Number, 50)
  .action(async (slug: string, file: string, { most }: { most: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const view = await client.rehearsePast(slug, { inlet: (await readDescription(file)) as InletDescription, most });
    if (json) printJson(view);
    else printPast(view);
  });

function printPast({ arrivals, different }: PastView): void {
  if (arrivals.length === 0) return printLine("No arrivals of this inlet are kept.");
  for (const { at, words, before, after } of arrivals.filter(({ same }) => !same)) {
    printLine(`${faint(when.clock(at))}  “${words}”`);
    printLine(`  now    ${takenWords(before)}`);
    printLine(`  then   ${takenWords(after)}`);
  }
  printLine(`${different} of ${arrivals.length} past arrivals would be taken otherwise.`);
}

function takenWords({ route, does, reply }: TakenView): string {
  const by = route === null ? "" : faint(`  route ${route}`);
  return `${does.length > 0 ? does.join(", ") : reply === "" ? "nothing" : `“${reply}”`}${by}`;
}

withArrival(inletCommand.command("try <inlet>"))
  .description("call the inlet over its own address, as an outside caller does; the request is carried out")
  .option("--key-file <file>", "file with a key of the inlet; signed hooks, topics and sheets need none")
  .action(async (slug: string, options: RehearseOptions & { keyFile?: string }, command: Command) => {
    const { client, json } = connectionOf(command);
    const key = options.keyFile === undefined ? {} : { key: (await readFile(options.keyFile, "utf8")).trim() };
    const trial = await client.tryInlet(slug, { arrival: arrivalFrom(options), ...key });
    if (json) printJson(trial);
    else printTrial(trial);
    process.exitCode = trial.requests.length > 0 ? 0 : 1;
  });

function printTrial({ exchanges, requests, tookMs }: TrialView): void {
  for (const { sent, got } of exchanges) {
    printLine(`${bold("sent")}  ${shortened(sent, MOST_SHOWN)}`);
    printLine(`${bold("got")}   ${shortened(got, MOST_SHOWN).replaceAll("\n", "\n      ")}`);
  }
  if (requests.length === 0) printLine("It made no request.");
  for (const id of requests) printLine(`bold-relay trace ${id}`);
  printLine(faint(`In ${formatDuration(tookMs)}.`));
}

function printFindings(findings: readonly Finding[]): void {
  for (const { level, at, text } of findings) printLine(`${level === "wrong" ? wrong(level) : level}  ${at}  ${text}`);
}
