/** Where the settings come from: the environment, or a file of `NAME=value` lines as systemd reads them. */
import { existsSync, readFileSync } from "node:fs";
import { parseEnv } from "node:util";

/** Read where the environment names no database. */
export const DEFAULT_FILE = "/etc/bold-relay/bold-relay.env";

export interface Settings {
  readonly values: Readonly<Record<string, string | undefined>>;
  /** The file that was read; null: the environment alone. */
  readonly file: string | null;
}

/**
 * Reads the settings. What the environment says counts more than the file.
 *
 * @param file as given on the command line; undefined: the default file, if it is there and the environment names no database
 * @throws Error when the file cannot be read, or holds a line that is no setting
 */
export function readSettings(
  environment: Readonly<Record<string, string | undefined>>,
  file: string | undefined,
  defaultFile = DEFAULT_FILE,
): Settings {
  const isNeeded = environment.BOLD_RELAY_DATABASE_URL === undefined;
  const named = file ?? (isNeeded && existsSync(defaultFile) ? defaultFile : null);
  if (named === null) return { values: environment, file: null };
  return { values: { ...settingsIn(named), ...environment }, file: named };
}

function settingsIn(file: string): Record<string, string | undefined> {
  let text: string;
  try {
    text = readFileSync(file, "utf8");
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    throw new Error(`${file} cannot be read (${code}). Run the command as root, or name another file with --config.`, {
      cause: error,
    });
  }
  const settings = parseEnv(text);
  const foreign = Object.keys(settings).filter((name) => !name.startsWith("BOLD_RELAY_"));
  if (foreign.length > 0)
    throw new Error(`${file}: unknown setting ${foreign.join(", ")}. All names begin with BOLD_RELAY_.`);
  return settings;
}
