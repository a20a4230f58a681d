/** `bold-relay commission`: one device checked step by step. */
import { createInterface, type Interface } from "node:readline/promises";
import type { Client, CommissioningView, StepAnswerBody } from "@bold-relay/api";
import { formatAgo, stepsBefore } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, onTerminal, printJson, printLine, wrong } from "../output.ts";

type Step = CommissioningView["steps"][number];

const LOOK_EVERY_MS = 150;

export const commissionCommand = new Command("commission")
  .description("check a device step by step and save the record")
  .argument("<device>", "site/device")
  .option("--show", "show the open run or the last record; switch nothing")
  .addHelpText(
    "after",
    `
It switches relays and lights. Each step waits for you: Enter to start it, s to skip it, q to stop.
The record is saved after each step.

Examples:
  bold-relay commission fennel-hall/hall-board
  bold-relay commission fennel-hall/hall-board --show`,
  )
  .action(async (device: string, { show }: { show?: true }, command: Command) => {
    const { client, json } = connectionOf(command);
    const run = show ? (await client.commissionings(device))[0] : await commission(client, device, json);
    const before = (await client.commissionings(device)).find(
      ({ id, finishedAt }) => id !== run?.id && finishedAt !== null,
    );
    if (!run) throw new Error(`${device} is not commissioned. Start with: bold-relay commission ${device}`);
    if (json) printJson(run);
    else printRecord(device, run, before);
    if (run.steps.some(({ state }) => state === "failed")) process.exitCode = EXIT.notReached;
  });

async function commission(client: Client, device: string, json: boolean): Promise<CommissioningView> {
  if (json || !process.stdin.isTTY)
    throw new Error("Commissioning asks you at every step. Run it in a terminal, or use the console.");
  const answers = createInterface({ input: process.stdin, output: process.stdout });
  // Ctrl-C, or nobody at the keyboard any more: the record stays as far as it is.
  const gone = new AbortController();
  answers.once("close", () => gone.abort());
  try {
    await client.commission(device);
    for (const { name } of (await current(client, device)).steps) {
      if (!(await runStep(client, device, name, answers, gone.signal))) break;
    }
    printLine();
    return await current(client, device);
  } finally {
    answers.close();
  }
}

/** @returns false when the person stops */
async function runStep(
  client: Client,
  device: string,
  name: string,
  answers: Interface,
  gone: AbortSignal,
): Promise<boolean> {
  for (;;) {
    const step = await settled(client, device, name, gone);
    const said = step === null ? "stop" : await nextFor(step, answers, gone);
    if (said === "stop" || said === "on") return said === "on";
    await client.commissioningStep(device, { step: name, answer: said });
  }
}

type Said = StepAnswerBody["answer"] | "stop" | "on";

/** What the person, or the step by itself, wants next. */
async function nextFor(step: Step, answers: Interface, gone: AbortSignal): Promise<Said> {
  const ask = async (question: string, meanings: Readonly<Record<string, Said>>): Promise<Said> => {
    while (!gone.aborted) {
      const line = await answers.question(`  ${question}: `, { signal: gone }).catch(() => "q");
      const said = line === "q" ? "stop" : meanings[line.trim().toLowerCase()];
      if (said !== undefined) return said;
    }
    return "stop";
  };
  if (step.state === "ready") {
    printLine(`\n${bold(step.title)}\n  ${step.invites ?? "It runs by itself."}`);
    if (step.invites === null) return "go";
    return ask("Enter to start, s to skip, q to stop", { "": "go", s: "skip" });
  }
  if (step.state === "asks") {
    printLine(`  ${step.text}`);
    const meanings = { y: "yes", n: "no", t: "turned", s: "skip" } as const;
    return ask("y yes, n no, t the opposite, s to skip, q to stop", meanings);
  }
  printLine(stepLine(step));
  if (step.state !== "failed") return "on";
  return ask("r to retry, s to skip, Enter for the next step, q to stop", {
    r: "go",
    s: "skip",
    "": "on",
  });
}

async function current(client: Client, device: string): Promise<CommissioningView> {
  const [run] = await client.commissionings(device);
  if (!run) throw new Error(`Nothing is known of a commissioning of ${device}.`);
  return run;
}

/** The step once it does not run any more, saying what is waited for meanwhile; null: the person has gone. */
async function settled(client: Client, device: string, name: string, gone: AbortSignal): Promise<Step | null> {
  let told = false;
  while (!gone.aborted) {
    const step = (await current(client, device)).steps.find((one) => one.name === name);
    if (!step) throw new Error(`There is no step “${name}”.`);
    if (step.state !== "running" && step.state !== "waiting") return step;
    if (!told && onTerminal && step.state === "running") printLine(faint("  … waiting for the evidence"));
    told = true;
    await new Promise((resolve) => setTimeout(resolve, LOOK_EVERY_MS));
  }
  return null;
}

function printRecord(
  device: string,
  { startedBy, startedAt, finishedAt, interrupted, steps }: CommissioningView,
  before: CommissioningView | undefined,
): void {
  const done =
    finishedAt === null
      ? interrupted
        ? "interrupted when the service stopped"
        : "not finished"
      : `finished ${formatAgo(Date.now() - Date.parse(finishedAt))}`;
  printLine(
    `${bold(device)}, commissioned by ${startedBy}, started ${formatAgo(Date.now() - Date.parse(startedAt))}, ${done}`,
  );
  const was = stepsBefore(steps, before?.steps ?? []);
  for (const step of steps) {
    const last = was[step.name];
    printLine(`${stepLine(step)}${last === undefined ? "" : faint(`  (last time ${last})`)}`);
  }
}

const SIGNS = { passed: "✓", failed: "✗", skipped: "–", asks: "?", ready: "·", waiting: "·", running: "…" } as const;

function stepLine({ state, title, text, tryThis }: Step): string {
  const sign = state === "failed" ? wrong(SIGNS[state]) : SIGNS[state];
  const hint = tryThis === null ? "" : `\n      Try this: ${tryThis}`;
  return `  ${sign} ${title}${text === null ? "" : `: ${text}`}${hint}`;
}
