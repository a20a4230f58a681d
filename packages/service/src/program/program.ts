/** The verbs of `bold-relay-server`, joined; nothing runs until it is parsed, and each verb loads what it needs then. */
import { Command, Option } from "commander";
import { BUILT_CONSOLE } from "../platform/config/built-console.ts";
import type { Config } from "../platform/config/config.ts";
import { DEFAULT_FILE, readSettings } from "../platform/config/settings-file.ts";
import { versionText } from "../platform/version.ts";
import { withPatience } from "./patience.ts";

type Environment = Readonly<Record<string, string | undefined>>;

/** @param environment where settings are read, beside the file */
export function serverProgram(environment: Environment): Command {
  const program = new Command("bold-relay-server")
    .description("Runs the Bold Relay service, and looks after its database.")
    .version(versionText)
    .addOption(new Option("--config <file>", `file with settings, default ${DEFAULT_FILE}`))
    .configureHelp({ showGlobalOptions: true })
    .addHelpText(
      "after",
      `
Settings come from the environment. Where it has no BOLD_RELAY_DATABASE_URL, ${DEFAULT_FILE} is read too.

Examples:
  bold-relay-server check                      what is wrong with this installation, and how to correct it
  bold-relay-server setup                      a link that leads to the first owner
  bold-relay-server start                      run the service until Ctrl-C
  bold-relay-server backup monday.backup       the whole database in one file
  bold-relay-server restore monday.backup      an empty database as the backup has it
  bold-relay-server export site-office.tar.gz  all descriptions and members, for a second machine
  bold-relay-server owner Ines                 a new password for an owner who cannot sign in

Exit codes: 0 done, 1 failed, 2 misuse`,
    )
    .exitOverride();

  const config = async (): Promise<Config> => {
    const { readConfig } = await import("../platform/config/config.ts");
    const { values } = readSettings(environment, program.opts<{ config?: string }>().config);
    return readConfig({ BOLD_RELAY_CONSOLE_DIR: BUILT_CONSOLE, ...values });
  };
  const databaseUrl = (): string => {
    const { values } = readSettings(environment, program.opts<{ config?: string }>().config);
    const url = values.BOLD_RELAY_DATABASE_URL;
    if (url === undefined || url === "") throw new Error("Set BOLD_RELAY_DATABASE_URL to the service's database.");
    return url;
  };
  const verb = (usage: string, about: string) =>
    program.command(usage).description(about).exitOverride().copyInheritedSettings(program);

  verb("start", "run the service until a signal").action(async () => {
    const { start } = await import("./start.ts");
    await start(await config());
  });

  program
    .command("prepare")
    .description("make what an installation needs in a folder: settings, broker, certificate; and the database")
    .argument("<folder>", "what is there stays")
    .option("--host <name...>", "names or addresses by which devices reach this machine; default: those that it has")
    .option("--database <url>", "an empty database that is there; default: one in the PostgreSQL of this machine")
    .exitOverride()
    .copyInheritedSettings(program)
    .action(async (folder: string, options: { host?: string[]; database?: string }) => {
      const { prepare } = await import("./prepare.ts");
      process.exitCode = await prepare(folder, options);
    });

  verb("check", "look for what is wrong with settings, machine, database and broker; changes nothing")
    .option("--json", "print JSON Lines")
    .action(async ({ json = false }: { json?: boolean }) => {
      const [{ check }, { findingLines }] = await Promise.all([
        import("./check/check.ts"),
        import("./check/finding.ts"),
      ]);
      const found = await withPatience("Checking", () =>
        check(environment, program.opts<{ config?: string }>().config),
      );
      say(json ? found.map((one) => JSON.stringify(one)) : findingLines(found));
      if (found.some(({ state }) => state === "error")) process.exitCode = 1;
    });

  verb("setup", "prepare the database and make a one-time link to the first owner's password")
    .option("--url <url>", "where browsers reach the console; default: the address that the service listens on")
    .option(
      "--from <file>",
      "set up without a browser: profiles, sites, owner, keys and inlets from a YAML or JSON file",
    )
    .option("--new-secrets", "with --from: a new password and new keys also where there are some")
    .action(async ({ url, from, newSecrets = false }: { url?: string; from?: string; newSecrets?: boolean }) => {
      if (from !== undefined) {
        const { setupFrom } = await import("./setup-file.ts");
        return say([JSON.stringify(await setupFrom(databaseUrl(), from, newSecrets))]);
      }
      const { setup } = await import("./setup.ts");
      say(await setup(databaseUrl(), url ?? consoleUrl(environment, program)));
    });

  verb("owner <name>", "add an owner, or give one a new password; sessions, keys and second factor end").action(
    async (name: string) => {
      const { resetOwner } = await import("./owner.ts");
      const { owner, password } = await resetOwner(databaseUrl(), name);
      say([`${owner} is an owner. The password is shown only now:`, "", `  ${password}`]);
    },
  );

  verb("migrate", "bring the database to the shape of this version, all or nothing; `start` does it too")
    .option("--dry-run", "show what would run")
    .action(async (options: { dryRun?: boolean }) => {
      const { migrate } = await import("./migrate.ts");
      say(await withPatience("Migrating", () => migrate(databaseUrl(), options)));
    });

  verb("backup <file>", "write the whole database to a new file, while the service runs").action(
    async (file: string) => {
      const { backup } = await import("./backup.ts");
      say(await withPatience("Writing the backup", () => backup(databaseUrl(), file)));
    },
  );

  verb("restore <file>", "fill the database from a backup, all or nothing; no instance may run")
    .option("--replace", "delete what the database holds")
    .action(async (file: string, options: { replace?: boolean }) => {
      const { restore } = await import("./restore.ts");
      say(await withPatience("Restoring", () => restore(databaseUrl(), file, options)));
    });

  verb(
    "export <file>",
    "write all descriptions and members to one archive, without secrets, while the service runs",
  ).action(async (file: string) => {
    const { exportInstallation } = await import("./export.ts");
    say(await withPatience("Writing the export", () => exportInstallation(databaseUrl(), file)));
  });

  verb("import <file>", "add what an export holds, all or nothing; no instance may run")
    .option("--replace", "also change what this installation has under the same identifiers")
    .option("--url <url>", "where browsers reach the console, for the links of new members")
    .action(async (file: string, { replace = false, url }: { replace?: boolean; url?: string }) => {
      const { importInstallation } = await import("./import.ts");
      say(
        await withPatience("Importing", () =>
          importInstallation(databaseUrl(), file, { replace, url: url ?? consoleUrl(environment, program) }),
        ),
      );
    });

  verb("doctor [file]", "write a support bundle without secrets").action(async (file: string | undefined) => {
    const { doctor } = await import("./doctor.ts");
    const name = file ?? `bold-relay-${new Date().toISOString().slice(0, 10)}.json`;
    say(await withPatience("Looking", () => doctor(environment, program.opts<{ config?: string }>().config, name)));
  });
  return program;
}

function consoleUrl(environment: Environment, program: Command): string {
  const { values } = readSettings(environment, program.opts<{ config?: string }>().config);
  const host = values.BOLD_RELAY_HOST ?? "127.0.0.1";
  return `http://${host === "0.0.0.0" ? "127.0.0.1" : host}:${values.BOLD_RELAY_PORT ?? "4180"}`;
}

function say(lines: readonly string[]): void {
  process.stdout.write(`${lines.join("\n")}\n`);
}
