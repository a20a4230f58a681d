/** The verbs of `bold-relay`, joined; nothing runs until it is parsed. */

import { Command, Option } from "commander";
import { alertsCommand } from "./commands/alerts.ts";
import { cancelCommand } from "./commands/cancel.ts";
import { channelCommand } from "./commands/channel.ts";
import { commissionCommand } from "./commands/commission.ts";
import { completionCommand } from "./commands/completion.ts";
import { devicesCommand } from "./commands/devices.ts";
import { applyCommand, planCommand, saveCommand } from "./commands/folder.ts";
import { historyCommand } from "./commands/history.ts";
import { inletCommand } from "./commands/inlet.ts";
import { lockCommand, unlockCommand } from "./commands/lock.ts";
import { logCommand } from "./commands/log.ts";
import { notificationCommand } from "./commands/notification.ts";
import { profileCommand } from "./commands/profile.ts";
import { sayCommand } from "./commands/say.ts";
import { sendCommand } from "./commands/send.ts";
import { siteCommand } from "./commands/site.ts";
import { groupCommand, interlockCommand, roomCommand, sceneCommand } from "./commands/site-parts.ts";
import { stateCommand } from "./commands/state.ts";
import { statsCommand } from "./commands/stats.ts";
import { statusCommand } from "./commands/status.ts";
import { auditCommand, keyCommand, memberCommand } from "./commands/team.ts";
import { traceCommand } from "./commands/trace.ts";
import { translatorCommand } from "./commands/translator.ts";
import { undoCommand, versionsCommand } from "./commands/versions.ts";
import { watchCommand } from "./commands/watch.ts";
import { publishCommand, wireCommand } from "./commands/wire.ts";
import { versionText } from "./version.ts";

export const program = new Command("bold-relay")
  .description("Command line of a Bold Relay service.")
  .version(versionText)
  .addOption(new Option("--url <url>", "the service's address").env("BOLD_RELAY_URL").default("http://127.0.0.1:4180"))
  .option("--json", "print JSON Lines instead of tables")
  .configureHelp({ showGlobalOptions: true })
  .addHelpText(
    "after",
    `
The key is read from BOLD_RELAY_KEY, never from the command line, where others could see it.

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
  .exitOverride();

for (const command of [
  statusCommand,
  sendCommand,
  sayCommand,
  stateCommand,
  logCommand,
  traceCommand,
  alertsCommand,
  statsCommand,
  watchCommand,
  lockCommand,
  unlockCommand,
  cancelCommand,
  historyCommand,
  memberCommand,
  keyCommand,
  auditCommand,
  devicesCommand,
  commissionCommand,
  siteCommand,
  roomCommand,
  channelCommand,
  groupCommand,
  sceneCommand,
  interlockCommand,
  profileCommand,
  inletCommand,
  notificationCommand,
  saveCommand,
  planCommand,
  applyCommand,
  versionsCommand,
  undoCommand,
  translatorCommand,
  wireCommand,
  publishCommand,
  completionCommand,
]) {
  for (const each of [command, ...command.commands]) each.exitOverride().copyInheritedSettings(program);
  program.addCommand(command);
}
