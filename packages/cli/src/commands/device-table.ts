/** `bold-relay devices export` and `import`: a site's devices as a CSV file (RFC 4180), one channel a row. */
import { readFile, writeFile } from "node:fs/promises";
import { counted, DEVICE_COLUMNS, type DeviceRow, deviceRows, withDeviceRows } from "@bold-relay/core";
import { Command } from "commander";
import { parse } from "csv-parse/sync";
import { stringify } from "csv-stringify/sync";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { bold, printJson, printLine, printText } from "../output.ts";
import { printPlan } from "../site-plan.ts";

export const exportDevices = new Command("export")
  .description("write the devices of a site to a CSV file, one channel a row")
  .argument("<site>")
  .argument("[file]", "default: standard output")
  .action(async (slug: string, file: string | undefined, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const rows = deviceRows((await client.site(slug)).site);
    if (json) return rows.forEach(printJson);
    // A cell that begins like a formula is made plain text.
    const text = stringify(rows, { header: true, columns: [...DEVICE_COLUMNS], escape_formulas: true });
    if (file === undefined) return printText(text);
    await writeFile(file, text);
    printLine(`${bold(slug)}: ${counted(rows.length, "channel")} written to ${file}.`);
  });

export const importDevices = new Command("import")
  .description("add and change devices from a CSV file; devices that are not in the file stay")
  .argument("<site>")
  .argument("<file>")
  .option("--check", "show what would change; change nothing")
  .addHelpText(
    "after",
    `
The first row names the columns: ${DEVICE_COLUMNS.join(", ")}.
If the file names a device, channels of it that are not in the file are deleted.`,
  )
  .action(async (slug: string, file: string, { check }: { check?: true }, command: Command) => {
    const { client, json } = connectionOf(command);
    const { site: before, version } = await client.site(slug);
    const site = withDeviceRows(before, await readRows(file));
    const plan = check ? await client.checkSite(site) : await client.saveSite(site, version);
    if (json) printJson(plan);
    else printPlan(site.name, plan, check ? "would" : "did");
    if (plan.findings.some(({ level }) => level === "wrong")) process.exitCode = EXIT.notReached;
  });

/** @throws Error that names the file and what is wrong with it */
async function readRows(file: string): Promise<Partial<DeviceRow>[]> {
  const text = await readFile(file, "utf8");
  const columns = (names: string[]) => {
    const known = names.map((name) => name.trim().toLowerCase());
    const missing = ["room", "device", "device_name", "profile", "channel", "channel_name", "kind"].filter(
      (name) => !known.includes(name),
    );
    if (missing.length > 0) throw new Error(`it has no column ${missing.join(", ")}`);
    return known;
  };
  try {
    return parse(text, { columns, bom: true, trim: true, skip_empty_lines: true }) as Partial<DeviceRow>[];
  } catch (error) {
    throw new Error(`${file}: ${(error as Error).message}`, { cause: error });
  }
}
