/** Files that the settings name, and whether only the right people can read those that hold secrets. */
import { access, constants, stat } from "node:fs/promises";
import path from "node:path";
import { counted } from "@bold-relay/core";
import { readPlan } from "@bold-relay/translators/host";
import { brokerAccess } from "../../platform/config/broker-access.ts";
import { BUILT_CONSOLE } from "../../platform/config/built-console.ts";
import type { Config } from "../../platform/config/config.ts";
import { type Finding, failure, ok, warning } from "./finding.ts";

export async function checkFiles(config: Config, settingsFile: string | null): Promise<Finding[]> {
  return [
    ...(settingsFile === null ? [] : await checkSettingsFile(settingsFile)),
    ...(await checkConsole(config)),
    ...checkBrokerFiles(config),
    ...checkPlan(config),
    ...checkSecretsKey(config),
  ];
}

async function checkSettingsFile(file: string): Promise<Finding[]> {
  const { mode } = await stat(file);
  if ((mode & 0o007) === 0) return [];
  return [
    warning(
      "Configuration",
      `everybody on this machine can read ${file}`,
      `It holds passwords. Run: chmod 640 ${file}`,
    ),
  ];
}

async function checkConsole({ consoleDir = BUILT_CONSOLE }: Config): Promise<Finding[]> {
  const page = path.join(consoleDir, "index.html");
  const isThere = await access(page, constants.R_OK).then(
    () => true,
    () => false,
  );
  if (isThere) return [];
  return [failure("Console", `${page} cannot be read`, "Correct BOLD_RELAY_CONSOLE_DIR, or remove the setting.")];
}

function checkBrokerFiles(config: Config): Finding[] {
  try {
    brokerAccess(config);
    return [];
  } catch (error) {
    return [
      failure("Broker", (error as Error).message, "Correct the setting, or let the service's user read the file."),
    ];
  }
}

function checkPlan({ translateFile }: Config): Finding[] {
  if (translateFile === undefined) return [];
  try {
    return [ok("Translators", `${counted(readPlan(translateFile).devices.length, "device")} in ${translateFile}`)];
  } catch (error) {
    return [failure("Translators", (error as Error).message, "Correct the file: docs/how-to/translate-a-device.md")];
  }
}

function checkSecretsKey({ secretsKey }: Config): Finding[] {
  if (secretsKey) return [ok("Secrets key", "set")];
  const mend = "Set BOLD_RELAY_SECRETS_KEY to the output of: openssl rand -base64 32";
  return [warning("Secrets key", "not set: no signatures, links or authenticator apps", mend)];
}
