/** `bold-relay notice`: who is told of what happens: list, load, remove, sign, and the log of telling. */
import type { NoticeView } from "@bold-relay/api";
import { formatAgo, type NoticeDescription } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { readDescription } from "../description-file.ts";
import { bold, faint, printJson, printLine, table, wrong } from "../output.ts";

export const noticeCommand = new Command("notice")
  .description("who is told of outcomes, changes and attention, by a signed webhook or an MQTT topic")
  .addHelpText(
    "after",
    `
A notice is a YAML or JSON file:
  slug: night-desk
  name: Night desk
  site: alder-row                              null: every premises
  on: { outcomes: [not-at-all, partly], attention: true }     changes: true for every change
  to: { url: "https://desk.example/told" }     or { topic: desk/told }

Examples:
  bold-relay notice
  bold-relay notice load night-desk.yaml
  bold-relay notice secret night-desk          signs what is sent (Standard Webhooks), shown once
  bold-relay notice log night-desk`,
  )
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const notices = await client.notices();
    if (json) for (const one of notices) printJson(one);
    else if (notices.length === 0)
      printLine("Nobody is told of anything so far. Load a notice from a file: bold-relay notice load");
    else printLine(table(["notice", "premises", "of", "to", ""], notices.map(noticeRow)));
  });

function noticeRow({ notice: { slug, site, on, to, paused }, signed }: NoticeView): string[] {
  const of = [...(on.outcomes ?? []), ...(on.changes ? ["changes"] : []), ...(on.attention ? ["attention"] : [])];
  const where = "url" in to ? to.url : to.topic;
  return [
    bold(slug),
    site ?? "every premises",
    of.join(", "),
    where,
    paused ? faint("paused") : signed ? "signed" : "not signed",
  ];
}

noticeCommand
  .command("load <file>")
  .description("add a notice, or change the one of the same slug")
  .action(async (file: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const notice = (await readDescription(file)) as NoticeDescription;
    const saved = await client.saveNotice(notice, null);
    if (json) printJson(saved);
    else printLine(`${bold(saved.notice.name)} is at version ${saved.version} and tells.`);
  });

noticeCommand
  .command("remove <notice>")
  .description("take a notice away, with its log")
  .action(async (slug: string, _options: object, command: Command) => {
    await connectionOf(command).client.removeNotice(slug);
    printLine(`${bold(slug)} is gone.`);
  });

noticeCommand
  .command("secret <notice>")
  .description("make a secret that what is sent is signed with; it is shown once")
  .action(async (slug: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const made = await client.makeNoticeSecret(slug);
    if (json) printJson(made);
    else printLine(made.secret);
  });

noticeCommand
  .command("log <notice>")
  .description("the newest hundred: what was told, and what was not taken")
  .action(async (slug: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    for (const one of await client.noticeLog(slug)) {
      if (json) {
        printJson(one);
        continue;
      }
      const { at, event, tries, deliveredAt, nextAt, trouble } = one;
      const { type = "", subject = "" } = event as { type?: string; subject?: string };
      const again = nextAt === null ? "given up" : `again ${new Date(nextAt).toLocaleTimeString()}`;
      const became = deliveredAt === null ? wrong(`${trouble ?? "waiting"}, ${again}`) : "taken";
      const times = tries > 1 ? `, ${tries} tries` : "";
      printLine(
        `${formatAgo(Date.now() - Date.parse(at)).padEnd(12)} ${type.padEnd(22)} ${subject}  ${became}${times}`,
      );
    }
  });
