/** `bold-relay versions` and `undo`: what a description was before, and back to it. */
import { type DescriptionKind, restoreVersion, versionBefore } from "@bold-relay/api";
import type { AuditChange } from "@bold-relay/core";
import { Argument, Command } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine, printText } from "../output.ts";
import { table } from "../table.ts";
import { previewOption } from "./change-site.ts";

const kindArgument = () => new Argument("<kind>").choices(["site", "profile", "inlet", "notification"]);

export const versionsCommand = new Command("versions")
  .addArgument(kindArgument())
  .argument("<identifier>")
  .argument("[version]", "compare this one with the version that is in effect", Number)
  .option("--text", "print the version as a file")
  .description("list the versions of a site, a profile, an inlet or a notification; the newest 50 are kept")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay versions site alder-row               the versions, who saved them, and when
  bold-relay versions site alder-row 12            what saving version 12 again would change
  bold-relay versions inlet porch-chat 3 --text    version 3 as a file
  bold-relay undo site alder-row                   back to the version before`,
  )
  .action(
    async (
      kind: DescriptionKind,
      slug: string,
      version: number | undefined,
      { text }: { text?: true },
      command: Command,
    ) => {
      const { client, json } = connectionOf(command);
      if (version !== undefined) {
        const found = await client.version(kind, slug, version);
        if (json) return printJson(found);
        if (text) return printText(stringify(found.description));
        return printChanges(found.version, found.changes);
      }
      const versions = await client.versions(kind, slug);
      if (json) return versions.forEach(printJson);
      const rows = versions.map((one) => [
        String(one.version),
        one.savedAt === null ? "before versions were kept" : when.clock(Date.parse(one.savedAt)),
        one.savedBy ?? "",
        one.current ? "in effect" : "",
      ]);
      printLine(table(["Version", "Saved", "By", ""], rows, [0]));
    },
  );

export const undoCommand = new Command("undo")
  .addArgument(kindArgument())
  .argument("<identifier>")
  .option("--to <version>", "back to this version; default: the one before the last change", Number)
  .addOption(previewOption())
  .description("undo the last change of a site, a profile, an inlet or a notification")
  .action(
    async (kind: DescriptionKind, slug: string, { to, preview }: { to?: number; preview?: true }, command: Command) => {
      const { client, json } = connectionOf(command);
      const target = to ?? versionBefore(await client.versions(kind, slug))?.version;
      if (target === undefined) throw new Error(`The ${kind} ${slug} has no earlier version.`);
      if (preview) {
        const found = await client.version(kind, slug, target);
        return json ? printJson(found) : printChanges(found.version, found.changes);
      }
      const version = await restoreVersion(client, kind, slug, target);
      if (json) printJson({ kind, slug, restored: target, version });
      else printLine(`The ${kind} ${bold(slug)} is as it was in version ${target}. That is version ${version} now.`);
    },
  );

function printChanges(version: number, changes: readonly AuditChange[]): void {
  printLine(
    changes.length === 0
      ? `Version ${version} is the same as what is in effect.`
      : `Saving version ${version} again would change:`,
  );
  for (const { place, from, to } of changes)
    printLine(`  ${place}${faint(`: ${from ?? "nothing"} → ${to ?? "nothing"}`)}`);
}
