/** `bold-relay site`: sites as files, checked, compared, taken on while the service runs. */
import { writeFile } from "node:fs/promises";
import { counted, type SiteDescription } from "@bold-relay/core";
import { Command } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { readDescription } from "../description-file.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, printText } from "../output.ts";
import { printPlan } from "../site-plan.ts";
import { table } from "../table.ts";
import { type ChangeOptions, changeSite, previewOption } from "./change-site.ts";

export const siteCommand = new Command("site")
  .description("list, save, check, load, rename and delete sites")
  .addHelpText(
    "after",
    `
Files are YAML or JSON and hold no secrets.

Examples:
  bold-relay site save alder-row alder-row.yaml      the loaded description as a file
  bold-relay site check alder-row.yaml               errors, warnings, and what would change
  bold-relay site load alder-row.yaml                load it; nothing changes if it has an error
  bold-relay site load alder-row.yaml --at 12        only if the service has version 12`,
  );

siteCommand
  .command("list", { isDefault: true })
  .description("list sites with their devices and channels")
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const sites = await client.sites();
    if (json) for (const site of sites) printJson(site);
    else if (sites.length === 0) printLine("No site yet. Load one from a file: bold-relay site load");
    else
      printLine(
        table(
          ["site", "name", "devices", "channels", "version"],
          sites.map((one) => [
            bold(one.slug),
            one.name,
            String(one.devices),
            String(one.channels),
            String(one.version),
          ]),
          [2, 3, 4],
        ),
      );
  });

siteCommand
  .command("save <site> [file]")
  .description("write a site's description to a file, or to standard output")
  .action(async (slug: string, file: string | undefined, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const { site, version } = await client.site(slug);
    if (file === undefined && json) return printJson(site);
    const text = json ? `${JSON.stringify(site)}\n` : `# ${site.name}, version ${version}\n${stringify(site)}`;
    if (file === undefined) return printText(text);
    await writeFile(file, text);
    printLine(`${bold(site.name)}: version ${version} is saved to ${file}.`);
  });

siteCommand
  .command("check <file>")
  .description("show errors, warnings and what loading would change; change nothing")
  .action(async (file: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const site = await readSite(file);
    const plan = await client.checkSite(site);
    if (json) printJson(plan);
    else printPlan(site.name, plan, "would");
    if (plan.findings.some(({ level }) => level === "wrong")) process.exitCode = EXIT.notReached;
  });

siteCommand
  .command("load <file>")
  .description("apply a description; no restart is needed")
  .option("--at <version>", "only if the service has this version; 0: only if there is none", Number)
  .action(async (file: string, { at }: { at?: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const site = await readSite(file);
    const plan = await client.saveSite(site, at ?? null);
    if (json) return printJson(plan);
    printPlan(site.name, plan, "did");
  });

siteCommand
  .command("delete <site>")
  .description("delete a site with its rooms, devices and channels; log and history stay")
  .option("--at <version>", "only if the service has this version", Number)
  .action(async (slug: string, { at }: { at?: number }, command: Command) => {
    const { client } = connectionOf(command);
    const { site } = await client.site(slug);
    await client.deleteSite(slug, at ?? null);
    const devices = site.rooms.flatMap((room) => room.devices);
    const channels = devices.flatMap((device) => device.channels);
    printLine(
      `${bold(site.name)} is deleted, with ${counted(devices.length, "device")} and ${counted(channels.length, "channel")}.`,
    );
    printLine(faint("Log and history stay. Load its description to get it back."));
  });

siteCommand
  .command("rename <site> <name>")
  .description("change what people call a site; its identifier stays")
  .addOption(previewOption())
  .action((slug: string, name: string, options: ChangeOptions, command: Command) =>
    changeSite(command, slug, { edit: "site", fields: { name } }, options),
  );

siteCommand
  .command("zone <site> <zone>")
  .description("set the time zone of a site, like Europe/London; none: that of the reader")
  .addOption(previewOption())
  .action((slug: string, zone: string, options: ChangeOptions, command: Command) =>
    changeSite(command, slug, { edit: "site", fields: { timeZone: zone === "none" ? null : zone } }, options),
  );

async function readSite(file: string): Promise<SiteDescription> {
  const site = (await readDescription(file)) as SiteDescription | null;
  if (typeof site?.slug !== "string") throw new Error(`${file} describes no site: it has no “slug”.`);
  return site;
}
