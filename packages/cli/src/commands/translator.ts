/** `bold-relay translator check`: a translator's plan held against the sites of the service. */
import { counted } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { readDescription } from "../description-file.ts";
import { EXIT } from "../exit.ts";
import { printJson, printLine } from "../output.ts";
import { findingLine } from "../site-plan.ts";

export const translatorCommand = new Command("translator").description("check the plans of translators");

translatorCommand
  .command("check <plan>")
  .description(
    "show what is wrong with a plan, and whether its devices and channels are in their sites; nothing is kept",
  )
  .action(async (file: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const checked = await client.checkPlan((await readDescription(file)) as object);
    const errors = checked.findings.filter(({ level }) => level === "wrong").length;
    if (errors > 0) process.exitCode = EXIT.notReached;
    if (json) return printJson(checked);
    for (const finding of checked.findings) printLine(findingLine(finding));
    printLine(
      errors > 0
        ? `${file}: ${counted(errors, "error")}.`
        : `${file}: ${counted(checked.devices, "device")}, no errors.`,
    );
  });
