/** `bold-relay notification`: who is told of what happens: list, load, delete, sign, and the log of telling. */
import type { NotificationView } from "@bold-relay/api";
import { formatAgo, type NotificationDescription } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { readDescription } from "../description-file.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";
import { outOption, writeSecret } from "../secret-file.ts";
import { table } from "../table.ts";

export const notificationCommand = new Command("notification")
  .description("messages to outside services: request outcomes, state changes, alerts; by signed webhook or MQTT topic")
  .addHelpText(
    "after",
    `
A notification is a YAML or JSON file:
  slug: night-desk
  name: Night desk
  site: alder-row                              null: every site
  on: { outcomes: [not-delivered, partly-delivered], alerts: true }     changes: true for every change
  to: { url: "https://desk.example/events" }     or { topic: desk/events }

Examples:
  bold-relay notification
  bold-relay notification load night-desk.yaml
  bold-relay notification secret night-desk          sign its messages (Standard Webhooks)
  bold-relay notification log night-desk`,
  );

notificationCommand
  .command("list", { isDefault: true })
  .description("list notifications: events, and where they go")
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const notifications = await client.notifications();
    if (json) for (const one of notifications) printJson(one);
    else if (notifications.length === 0)
      printLine("No notifications yet. Load one from a file: bold-relay notification load");
    else printLine(table(["notification", "site", "events", "to", ""], notifications.map(notificationRow)));
  });

function notificationRow({ notification: { slug, site, on, to, paused }, signed }: NotificationView): string[] {
  const of = [...(on.outcomes ?? []), ...(on.changes ? ["changes"] : []), ...(on.alerts ? ["alerts"] : [])];
  const where = "url" in to ? to.url : to.topic;
  return [
    bold(slug),
    site ?? "every site",
    of.join(", "),
    where,
    paused ? faint("paused") : signed ? "signed" : "not signed",
  ];
}

notificationCommand
  .command("load <file>")
  .description("add a notification, or change the one with the same slug")
  .action(async (file: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const notification = (await readDescription(file)) as NotificationDescription;
    const saved = await client.saveNotification(notification, null);
    if (json) printJson(saved);
    else printLine(`${bold(saved.notification.name)} is saved as version ${saved.version}.`);
  });

notificationCommand
  .command("delete <notification>")
  .description("delete a notification with its log")
  .action(async (slug: string, _options: object, command: Command) => {
    await connectionOf(command).client.removeNotification(slug);
    printLine(`${bold(slug)} is deleted.`);
  });

notificationCommand
  .command("secret <notification>")
  .description("create a secret that signs the messages; it is shown once")
  .addOption(outOption("the secret"))
  .action(async (slug: string, { out }: { out?: string }, command: Command) => {
    const { client, json } = connectionOf(command);
    const made = await client.makeNotificationSecret(slug);
    if (out !== undefined) {
      await writeSecret(out, `${made.secret}\n`);
      return printLine(`The secret is in ${out}.`);
    }
    if (json) printJson(made);
    else printLine(made.secret);
  });

notificationCommand
  .command("log <notification>")
  .description("list the last 100 messages and their results")
  .action(async (slug: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const told = await client.notificationLog(slug);
    if (json) return told.forEach(printJson);
    if (told.length === 0) return printLine("No messages yet.");
    const rows = told.map(({ at, event, tries, deliveredAt, nextAt, trouble }) => {
      const { type = "", subject = "" } = event as { type?: string; subject?: string };
      const again = nextAt === null ? "given up" : `again ${when.clock(nextAt)}`;
      const result = deliveredAt === null ? wrong(`${trouble ?? "waiting"}, ${again}`) : "delivered";
      return [formatAgo(Date.now() - Date.parse(at)), type, subject, `${result}${tries > 1 ? `, ${tries} tries` : ""}`];
    });
    printLine(table(["sent", "event", "subject", "result"], rows));
  });
