/** `bold-relay send`: asks for one command and waits until its outcome is known. */
import { type AskBody, type Client, type CommandView, type RequestView, reachedText } from "@bold-relay/api";
import {
  formatDuration,
  hasReached,
  kindNames,
  kindOf,
  parseDuration,
  STAGES,
  type TargetStage,
  trackText,
} from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { exitCodeOf, trackWithTime, verdictText } from "../describe.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, onTerminal, printJson, printLine, visible, wrong } from "../output.ts";
import { printRehearsedAsk } from "./say.ts";

interface SendOptions {
  readonly wait: number;
  readonly until?: TargetStage;
  readonly for?: number;
  readonly rehearse?: boolean;
}

const LOOK_EVERY_MS = 150;

export const sendCommand = new Command("send")
  .description("switch a channel, a group or a scene and wait for the outcome")
  .argument(
    "<words...>",
    "channel, group or scene by name or address; then the action; then its value, if it takes one",
  )
  .addOption(new Option("--for <time>", "switch it off after this time: 90s, 5min, 2h").argParser(duration))
  .addOption(new Option("--wait <s>", "seconds to wait for the outcome; 0: do not wait").argParser(seconds).default(60))
  .addOption(new Option("--until <stage>", "return at this stage, before the target stage").choices(STAGES.slice(1)))
  .addOption(new Option("--rehearse", "show what would be sent; send nothing"))
  .addHelpText(
    "after",
    `
Examples:
  bold-relay send "porch lantern, wren" on
  bold-relay send alder-row/finch/porch off --until acknowledged
  bold-relay send gate lock plover on --wait 0
  bold-relay send "dining dimmer, wren" level 35
  bold-relay send misting pump on --for 2min
  bold-relay send all porches off
  bold-relay send alder-row/evening recall
  bold-relay send "vent, close" on --rehearse

Actions: ${actionHelp()}`,
  )
  .action(async (words: string[], options: SendOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const body = bodyOf(words);
    if (options.for !== undefined) body.forMs = options.for;
    if (options.until !== undefined) body.until = options.until;
    if (options.rehearse) return rehearse(client, body, json);
    const request = await askAndFollow(client, body, options, json);
    const reached = request.outcome === "delivered" || contentWith(request, options.until);
    process.exitCode = reached ? EXIT.reached : exitCodeOf(request);
    if (json) printJson(request);
    else printOutcome(request, options);
  });

async function rehearse(client: Client, body: AskBody, json: boolean): Promise<void> {
  const ask = await client.rehearseAsk(body);
  process.exitCode = ask.sends.length > 0 ? EXIT.reached : EXIT.notReached;
  if (json) return printJson(ask);
  printLine(bold(ask.sends.length > 0 ? "This would be sent:" : "Nothing would be sent."));
  printRehearsedAsk(ask);
}

/** What can be asked of any kind of channel, of a scene and of a device that can be read. */
const ACTIONS: ReadonlySet<string> = new Set([
  ...kindNames.flatMap((kind) => Object.keys(kindOf(kind).actions)),
  "recall",
  "read",
]);

/** The last word is the action; a number or a colour after it is its value: "hall dimmer level 35 %". */
function bodyOf(words: readonly string[]): AskBody {
  const all = words.length === 1 ? (words[0] ?? "").split(/\s+/) : [...words];
  if (all.at(-1) === "%") all.pop();
  const number = /^(-?\d+(?:\.\d+)?)%?$/.exec(all.at(-1) ?? "");
  const value =
    number && all.length > 2
      ? Number(number[1])
      : all.at(-2) === "colour" || all.at(-2) === "pattern"
        ? (all.at(-1) ?? null)
        : null;
  if (value !== null) all.pop();
  const action = all.pop() ?? "";
  const target = all.join(" ");
  if (target === "" || !ACTIONS.has(action))
    throw new Error(
      `The action is missing: “${action}” is none. Say the name, then the action, like: bold-relay send "porch lantern, wren" on. Actions: ${[...ACTIONS].join(", ")}.`,
    );
  return value === null ? { target, action } : { target, action, value };
}

async function askAndFollow(
  client: Client,
  body: AskBody,
  { wait, until }: SendOptions,
  quiet: boolean,
): Promise<RequestView> {
  const end = performance.now() + wait * 1000;
  // Most commands are proven within this; only slower ones are followed on the screen.
  let request = await client.ask(body, { waitS: Math.min(wait, 1) });
  while (request.outcome === "open" && !contentWith(request, until) && performance.now() < end) {
    const [first] = request.commands;
    if (first && onTerminal && !quiet)
      process.stdout.write(`\r${visible(`${trackText(first)}  ${faint(first.verdict.text)}`)}\u001b[K`);
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
    request = await client.request(request.id);
  }
  if (onTerminal && !quiet) process.stdout.write("\r\u001b[K");
  return request;
}

function contentWith(request: RequestView, until: TargetStage | undefined): boolean {
  return until !== undefined && request.commands.every((command) => hasReached(command.stage, until));
}

function printOutcome(request: RequestView, { wait, until }: SendOptions): void {
  if (request.commands.length > 1) {
    printLine(`${bold(`“${request.target}” ${request.action}`)}: ${reachedText(request)} reached their target stage`);
  }
  for (const command of request.commands) {
    printLine(`${bold(command.channelName)}, ${command.room} → ${command.toText}${clampedText(request, command)}`);
    printLine(trackWithTime(command));
    if (command.end !== null) printLine(verdictText(command));
    else if (contentWith(request, until))
      printLine(`It is ${command.stage}, as requested. The trace shows later stages.`);
    else
      printLine(wait === 0 ? "Accepted; not waited for." : wrong(`Still open after ${formatDuration(wait * 1000)}.`));
  }
  printLine(faint(`bold-relay trace ${request.id}`));
}

/** " (asked: 140)" where the channel's range allowed less than was asked. */
function clampedText({ value, action }: RequestView, { to }: CommandView): string {
  return value !== null && action === "level" && value !== to ? ` (asked: ${value})` : "";
}

function duration(text: string): number {
  const ms = parseDuration(text);
  if (ms === null) throw new InvalidArgumentError("A time like 90s, 5min or 2h.");
  return ms;
}

function seconds(text: string): number {
  const value = Number(text);
  if (!Number.isFinite(value) || value < 0 || value > 3_600) throw new InvalidArgumentError("Seconds from 0 to 3600.");
  return value;
}

/** The actions of every kind; kinds that take the same stand together. @example "relay, light: on, off, toggle, back" */
function actionHelp(): string {
  const kindsByActions = new Map<string, string[]>();
  for (const name of kindNames) {
    const actions = Object.keys(kindOf(name).actions).join(", ");
    if (actions !== "") kindsByActions.set(actions, [...(kindsByActions.get(actions) ?? []), name]);
  }
  const ofKinds = [...kindsByActions].map(([actions, kinds]) => `  ${kinds.join(", ")}: ${actions}`);
  return ["", ...ofKinds, "  group: on, off", "  scene: recall"].join("\n");
}
