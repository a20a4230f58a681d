/** `bold-relay devices` and `prove`: what is there, and one device proven step by step. */
import { createInterface, type Interface } from "node:readline/promises";
import type { Client, CommissioningView, DeviceView, StepAnswerBody } from "@bold-relay/api";
import { accessLines, formatAgo, stepsBefore } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, onTerminal, printJson, printLine, table, wrong } from "../output.ts";
import { exportDevices, importDevices } from "./device-table.ts";

type Step = CommissioningView["steps"][number];

const LOOK_EVERY_MS = 150;

export const devicesCommand = new Command("devices")
  .description("every device: where it is, what it speaks, whether it is there")
  .argument("[site]", "only this site")
  .option("--access", "what each needs at the broker, as lines of a mosquitto access file; user names are site.device")
  .action(async (site: string | undefined, { access }: { access?: true }, command: Command) => {
    const { client, json } = connectionOf(command);
    const devices = (await client.devices()).filter((one) => site === undefined || one.site.slug === site);
    if (access) for (const device of devices) printAccess(device);
    else if (json) for (const device of devices) printJson(device);
    else printLine(deviceTable(devices));
  });

devicesCommand.addCommand(exportDevices).addCommand(importDevices);

devicesCommand
  .command("identify <device>")
  .description("which one is it? a lamp of the device goes the other way and back, twice")
  .action(async (device: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const told = await client.identify(device);
    if (json) printJson(told);
    else printLine(`${bold(told.name)} (${told.channel}) has blinked.`);
  });

devicesCommand
  .command("credentials <device>")
  .description("make a user for a device at the broker, for its own topics only; it is shown once")
  .option("--overlap <h>", "how long those that it has still count", Number, 0)
  .action(async (device: string, { overlap }: { overlap: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const made = await client.makeCredentials(device, overlap);
    if (json) return printJson(made);
    printLine(`user       ${made.username}`);
    printLine(`client id  ${made.clientId}`);
    printLine(`password   ${made.password}`);
    printLine(
      faint(
        overlap > 0
          ? `Shown only now. Those before count for ${overlap} h more.`
          : "Shown only now. Those before have ended.",
      ),
    );
  });

devicesCommand
  .command("revoke <device>")
  .description("take back every user that a device has at the broker, at once")
  .action(async (device: string, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    await client.revokeCredentials(device);
    printLine(`${bold(device)} has no user at the broker any more, and is cut off.`);
  });

/** A device's own topics, for a broker that knows each by a user of its own. */
function printAccess({ address, access }: DeviceView): void {
  for (const line of accessLines(address.replace("/", "."), access)) printLine(line);
  printLine();
}

export const commissionCommand = new Command("commission")
  .description("check a device step by step, and keep the record")
  .argument("<device>", "site/device")
  .option("--show", "only show the run that stands, or the last record")
  .addHelpText(
    "after",
    `
It switches things for real: each channel is tried only after you said so. At every step: Enter to begin, s to leave
it out, q to stop. The record is kept as it grows.

Examples:
  bold-relay commission fennel-hall/hall-board
  bold-relay commission fennel-hall/hall-board --show`,
  )
  .action(async (device: string, { show }: { show?: true }, command: Command) => {
    const { client, json } = connectionOf(command);
    const run = show ? (await client.commissionings(device))[0] : await prove(client, device, json);
    const before = (await client.commissionings(device)).find(
      ({ id, finishedAt }) => id !== run?.id && finishedAt !== null,
    );
    if (!run) throw new Error(`${device} is not commissioned. Start with: bold-relay commission ${device}`);
    if (json) printJson(run);
    else printRecord(device, run, before);
    if (run.steps.some(({ state }) => state === "failed")) process.exitCode = EXIT.notReached;
  });

async function prove(client: Client, device: string, json: boolean): Promise<CommissioningView> {
  if (json || !process.stdin.isTTY)
    throw new Error("Proving asks you at every step: run it on a terminal, or in the console.");
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
    return ask("Enter to begin, s to leave it out, q to stop", { "": "go", s: "skip" });
  }
  if (step.state === "asks") {
    printLine(`  ${step.text}`);
    const meanings = { y: "yes", n: "no", t: "turned", s: "skip" } as const;
    return ask("y yes, n no, t the opposite, s leave it out, q to stop", meanings);
  }
  printLine(stepLine(step));
  if (step.state !== "failed") return "on";
  return ask("r to try again, s to leave it out, Enter to go on, q to stop", {
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

function deviceTable(devices: readonly DeviceView[]): string {
  const rows = devices.map(({ address, name, room, profile, online, channels }) => [
    address,
    name,
    room.name,
    profile.slug,
    String(channels.length),
    online === null ? "never online" : online ? "online" : wrong("offline"),
  ]);
  return table(["Device", "What it is", "Room", "Profile", "Channels", "Presence"], rows, [4]);
}
