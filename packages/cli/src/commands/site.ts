/** `bold-relay site`: sites as files, checked, compared, taken on while the service runs. */
import { writeFile } from "node:fs/promises";
import type { SitePlanView } from "@bold-relay/api";
import type { Finding, SiteChange, SiteDescription } from "@bold-relay/core";
import { Command } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { readDescription } from "../description-file.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

export const siteCommand = new Command("site").description("save, check, load and delete sites").addHelpText(
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
  .command("save <site> [file]")
  .description("write a site's description to a file, or to standard output")
  .action(async (slug: string, file: string | undefined, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const { site, version } = await client.site(slug);
    const text = json ? `${JSON.stringify(site)}\n` : `# ${site.name}, version ${version}\n${stringify(site)}`;
    if (file === undefined) return void process.stdout.write(text);
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
    else printPlan(site, plan, "would");
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
    printPlan(site, plan, "did");
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
    printLine(`${bold(site.name)} is deleted, with ${devices.length} devices and ${channels.length} channels.`);
    printLine(faint("Log and history stay. Load its description to get it back."));
  });

async function readSite(file: string): Promise<SiteDescription> {
  const site = (await readDescription(file)) as SiteDescription | null;
  if (typeof site?.slug !== "string") throw new Error(`${file} describes no site: it has no “slug”.`);
  return site;
}

export function printPlan(
  site: SiteDescription,
  { changes, findings, version }: SitePlanView,
  tense: "would" | "did",
): void {
  const against = version === 0 ? "a new site" : `version ${version}`;
  if (tense === "would") printLine(`${bold(site.name)}, compared with ${against}:`);
  if (changes.length === 0) printLine("  nothing changes");
  for (const change of changes) for (const line of changeLines(change)) printLine(line);
  for (const finding of findings) printLine(findingLine(finding));
  const wrongs = findings.filter(({ level }) => level === "wrong").length;
  if (tense === "did") printLine(`${bold(site.name)}: version ${version} is loaded.`);
  else if (wrongs > 0) printLine(wrong(`It cannot be loaded: ${wrongs} error${wrongs === 1 ? "" : "s"}.`));
}

function changeLines({ what, name, change, fields }: SiteChange): string[] {
  const sign = { added: "+", removed: "-", changed: "~" }[change];
  const head = `  ${sign} ${what} ${bold(name)}`;
  const shown = (value: unknown) => (value === null ? "none" : JSON.stringify(value));
  return [head, ...fields.map(({ field, from, to }) => faint(`      ${field}: ${shown(from)} → ${shown(to)}`))];
}

function findingLine({ level, at, text }: Finding): string {
  return level === "wrong" ? `  ${wrong("✗")} ${at} ${text}` : `  ? ${at} ${text}`;
}
