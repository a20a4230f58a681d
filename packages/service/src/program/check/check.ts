/** `check`: whether the service can run here, with these settings. It changes nothing. */
import { type Config, readConfig } from "../../platform/config/config.ts";
import { readSettings, type Settings } from "../../platform/config/settings-file.ts";
import { checkBroker } from "./broker.ts";
import { checkDatabase } from "./database.ts";
import { type Finding, failure, ok } from "./finding.ts";
import { checkMachine } from "./machine.ts";
import { checkFiles } from "./setting-files.ts";

/** @param file of the settings, as given on the command line */
export async function check(
  environment: Readonly<Record<string, string | undefined>>,
  file: string | undefined,
): Promise<Finding[]> {
  let settings: Settings;
  let config: Config;
  try {
    settings = readSettings(environment, file);
    config = readConfig(settings.values);
  } catch (error) {
    const mend = "Every setting: docs/reference/configuration.md";
    return [failure("Configuration", (error as Error).message, mend), ...(await checkMachine(null))];
  }
  const count = Object.keys(settings.values).filter((name) => name.startsWith("BOLD_RELAY_")).length;
  const found = await Promise.all([
    checkFiles(config, settings.file),
    checkMachine(config),
    checkDatabase(config),
    checkBroker(config),
  ]);
  return [ok("Configuration", `${count} settings from ${settings.file ?? "the environment"}`), ...found.flat()];
}
