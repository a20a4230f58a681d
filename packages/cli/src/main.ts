/** `bold-relay`: the service's answers for people who live in a shell. */

import { VERSION } from "@bold-relay/api";
import { Command, CommanderError, Option } from "commander";
import { attentionCommand } from "./commands/attention.ts";
import { closeCommand } from "./commands/close.ts";
import { completionCommand } from "./commands/completion.ts";
import { dayCommand } from "./commands/day.ts";
import { figuresCommand } from "./commands/figures.ts";
import { inletCommand } from "./commands/inlet.ts";
import { lockCommand, unlockCommand } from "./commands/lock.ts";
import { logCommand } from "./commands/log.ts";
import { noticeCommand } from "./commands/notice.ts";
import { profileCommand } from "./commands/profile.ts";
import { devicesCommand, proveCommand } from "./commands/prove.ts";
import { sayCommand } from "./commands/say.ts";
import { sendCommand } from "./commands/send.ts";
import { siteCommand } from "./commands/site.ts";
import { stateCommand } from "./commands/state.ts";
import { statusCommand } from "./commands/status.ts";
import { auditCommand, keyCommand, memberCommand } from "./commands/team.ts";
import { traceCommand } from "./commands/trace.ts";
import { watchCommand } from "./commands/watch.ts";
import { publishCommand, wireCommand } from "./commands/wire.ts";
import { EXIT, explain } from "./exit.ts";
import { visible } from "./output.ts";

const program = new Command("bold-relay")
  .description("Asks a Bold Relay service: is it alive, what is on, switch this, where did it stop.")
  .version(VERSION)
  .addOption(new Option("--url <url>", "the service's address").env("BOLD_RELAY_URL").default("http://127.0.0.1:4180"))
  .option("--json", "JSON Lines instead of tables, for other programs")
  .configureHelp({ showGlobalOptions: true })
  .addHelpText(
    "after",
    `
The key is read from BOLD_RELAY_KEY, never from the command line, where others could see it.

Examples:
  bold-relay status                            is everything alive?
  bold-relay state                             what every channel is, and was told
  bold-relay send "porch lantern, wren" on     switch it, and wait until it is proven
  bold-relay say all lights in wren off        the same in your own words
  bold-relay log --ended stopped               what did not get there
  bold-relay trace last                        every hop of the newest request
  bold-relay attention                         what somebody should look at
  bold-relay day "porch lantern, wren"         its last 24 hours, and one line to tell a caller
  bold-relay figures --days 30                 what share reached its aim, and how fast
  bold-relay watch                             the board, live

Exit codes: 0 reached its aim, 1 not reached, 2 misuse, 3 cannot reach the service, 4 not permitted`,
  )
  .exitOverride();

for (const command of [
  statusCommand,
  sendCommand,
  sayCommand,
  stateCommand,
  logCommand,
  traceCommand,
  attentionCommand,
  figuresCommand,
  watchCommand,
  lockCommand,
  unlockCommand,
  closeCommand,
  dayCommand,
  memberCommand,
  keyCommand,
  auditCommand,
  devicesCommand,
  proveCommand,
  siteCommand,
  profileCommand,
  inletCommand,
  noticeCommand,
  wireCommand,
  publishCommand,
  completionCommand,
]) {
  for (const each of [command, ...command.commands]) each.exitOverride().copyInheritedSettings(program);
  program.addCommand(command);
}

// A reader that has seen enough (head, less) closes the pipe: that is no error.
process.stdout.on("error", (error: NodeJS.ErrnoException) =>
  process.exit(error.code === "EPIPE" ? EXIT.reached : EXIT.notReached),
);

try {
  await program.parseAsync();
} catch (error) {
  if (error instanceof CommanderError) {
    process.exitCode = error.exitCode === 0 ? EXIT.reached : EXIT.misuse;
  } else {
    const { message, code } = explain(error);
    process.stderr.write(`${visible(message)}\n`);
    process.exitCode = code;
  }
}
