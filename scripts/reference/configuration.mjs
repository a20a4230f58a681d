// The reference of the configuration: what the schema that checks it says of itself.
import { configDescription } from "../../packages/service/src/platform/config/config.ts";
import { page, table } from "./markdown.mjs";
import { formOf } from "./schema.mjs";

const FOR_TESTS = "BOLD_RELAY_FAILPOINT";

export function configurationPage() {
  const settings = Object.entries(configDescription().keys).filter(([name]) => name !== FOR_TESTS);
  return page(
    "Configuration",
    [
      "All settings are environment variables. The service refuses unknown `BOLD_RELAY_…` variables at its start and names every",
      "mistake. `deploy/bold-relay.env` is a file with all of them. The command line reads `BOLD_RELAY_URL`, `BOLD_RELAY_KEY` and `BOLD_RELAY_PASSWORD_FILE`.",
    ].join("\n"),
    table(
      ["variable", "form", "default", "meaning"],
      settings.map(([name, setting]) => [
        `\`${name}\``,
        formOf(setting),
        defaultOf(setting),
        setting.flags.description,
      ]),
    ),
  );
}

function defaultOf({ flags }) {
  if (flags.presence === "required") return "required";
  const value = flags.default;
  return value === undefined || typeof value === "function" || Array.isArray(value) ? "" : `\`${value}\``;
}
