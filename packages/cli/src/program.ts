/** The verbs of `bold-relay`, joined; nothing runs until it is parsed. */
import { Command, Option } from "commander";
import { answersInJson } from "./output.ts";
import { ALL_VERBS, VERBS } from "./verbs.ts";
import { versionText } from "./version.ts";

/** @param verbs that it has */
export async function programOf(verbs: readonly string[] = ALL_VERBS): Promise<Command> {
  const program = frame();
  for (const command of await Promise.all(verbs.flatMap((name) => VERBS[name]?.() ?? []))) {
    for (const each of [command, ...command.commands]) each.exitOverride().copyInheritedSettings(program);
    program.addCommand(command);
  }
  return program;
}

function frame(): Command {
  return (
    new Command("bold-relay")
      .description("Command line of a Bold Relay service.")
      .version(versionText)
      .addOption(
        new Option("--url <url>", "the service's address").env("BOLD_RELAY_URL").default("http://127.0.0.1:4180"),
      )
      .option("--json", "print JSON Lines instead of tables")
      .configureHelp({ showGlobalOptions: true })
      .addHelpText(
        "after",
        `
The key is read from BOLD_RELAY_KEY, never from the command line, where others could see it.
Changes of members, roles, keys and rules need your password. It is asked for, or read from the file that
BOLD_RELAY_PASSWORD_FILE names.

Examples:
  bold-relay status                            service, broker, database
  bold-relay state                             commanded value and state of every channel
  bold-relay send "porch lantern, wren" on     switch it and wait for the outcome
  bold-relay say all lights in wren off        the same in your own words
  bold-relay log --result not-delivered        requests that were not delivered
  bold-relay trace last                        every hop of the newest request
  bold-relay alerts                            open problems
  bold-relay history "porch lantern, wren"     its last 24 hours, with one line to read to a caller
  bold-relay stats --days 30                   success rate and times
  bold-relay watch                             the board, live

Exit codes: 0 delivered, 1 not delivered, 2 misuse, 3 cannot reach the service, 4 not permitted`,
      )
      // In JSON an error is one object, which the end of the run writes.
      .configureOutput({ outputError: (text, write) => (answersInJson() ? undefined : write(text)) })
      .exitOverride()
  );
}
