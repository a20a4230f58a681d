/** `bold-relay alerts`: open problems, one for each root cause; assign, note, snooze, resolve. */
import type { AlertChangeBody, AlertView, Client } from "@bold-relay/api";
import { formatAgo } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

export const alertsCommand = new Command("alerts")
  .description("open problems that a person should look at")
  .addHelpText(
    "after",
    `
Each alert has a number in the list. It resolves itself when its cause is fixed. Exit code 1 while there are open alerts.

Examples:
  bold-relay alerts
  bold-relay alerts assign 1
  bold-relay alerts note 1 "fuse ordered, back on Friday"
  bold-relay alerts snooze 1 --hours 48
  bold-relay alerts resolve 1          hide it until it happens again`,
  );

alertsCommand
  .command("list", { isDefault: true })
  .description("list alerts, the gravest first; exit code 1 while there are open ones")
  .option("--all", "show resolved and snoozed alerts, too")
  .action(async ({ all = false }: { all?: boolean }, command: Command) => {
    const { client, json } = connectionOf(command);
    const alerts = await client.alerts(all);
    process.exitCode = alerts.length === 0 ? EXIT.reached : EXIT.notReached;
    if (json) for (const one of alerts) printJson(one);
    else if (alerts.length === 0) printLine("No open alerts.");
    else for (const [index, one] of alerts.entries()) printAlert(one, index + 1);
  });

function printAlert({ title, text, since, assignedTo, note, snoozedUntil, resolved }: AlertView, number: number): void {
  const ago = formatAgo(Date.now() - Date.parse(since));
  const state = [
    ...(assignedTo === null ? [] : [`assigned to ${assignedTo}`]),
    ...(resolved ? ["resolved"] : []),
    ...(snoozedUntil !== null && Date.parse(snoozedUntil) > Date.now() ? [`snoozed until ${snoozedUntil}`] : []),
  ];
  printLine(`${String(number).padStart(3)}  ${wrong(bold(title))}  ${faint([ago, ...state].join(", "))}`);
  printLine(`     ${text}`);
  if (note !== null) printLine(`     ${faint(`“${note}”`)}`);
}

verb("assign <number>", "assign it to yourself", () => ({ assign: true }));
verb("unassign <number>", "assign it to nobody", () => ({ assign: false }));
verb("note <number> <words...>", "add a note for the team", (words) => ({ note: words.join(" ") }));
verb("resolve <number>", "hide it until it happens again", () => ({ resolve: true }));

alertsCommand
  .command("snooze <number>")
  .description("hide an alert for a time")
  .option("--hours <h>", "hours to hide it for, 0 to 720; 0 shows it again", Number, 24)
  .action(async (number: string, { hours }: { hours: number }, command: Command) => {
    await change(command, number, { snoozeHours: hours });
  });

function verb(usage: string, about: string, bodyOf: (words: string[]) => Partial<AlertChangeBody>): void {
  alertsCommand
    .command(usage)
    .description(about)
    .action(async (number: string, ...rest: unknown[]) => {
      const [words, , command] = rest.length === 3 ? rest : [[], null, rest[1]];
      await change(command as Command, number, bodyOf(words as string[]));
    });
}

async function change(command: Command, number: string, body: Partial<AlertChangeBody>): Promise<void> {
  const { client, json } = connectionOf(command);
  const { kind, subject } = await alertAt(client, number);
  const alert = await client.changeAlert({ kind, subject, ...body });
  if (json) printJson(alert);
  else printAlert(alert, Number(number));
}

async function alertAt(client: Client, number: string): Promise<AlertView> {
  const alerts = await client.alerts(true);
  const shown = alerts.filter(
    ({ resolved, snoozedUntil }) => !resolved && (snoozedUntil === null || Date.parse(snoozedUntil) <= Date.now()),
  );
  const alert = [...shown, ...alerts.filter((one) => !shown.includes(one))][Number(number) - 1];
  if (!alert) throw new Error(`There is no alert ${number}. See: bold-relay alerts`);
  return alert;
}
