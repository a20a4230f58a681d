/** `bold-relay cancel`: ends what is open of a request by a person's word. */
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { trackWithTime, verdictText } from "../describe.ts";
import { bold, printJson, printLine } from "../output.ts";

export const cancelCommand = new Command("cancel")
  .description("end the open commands of a request; a stop is sent again until it is confirmed or cancelled")
  .argument("<id>", "the request's id")
  .requiredOption("--reason <text>", "why it is cancelled, 1 to 200 characters")
  .addHelpText("after", '\nExample:\n  bold-relay cancel 01a2b3c4-0000-7000-8000-000000000000 --reason "motor removed"')
  .action(async (id: string, { reason }: { reason: string }, command: Command) => {
    const { client, json } = connectionOf(command);
    const request = await client.cancel(id, { reason });
    if (json) return printJson(request);
    for (const one of request.commands) {
      printLine(`${bold(one.channelName)}, ${one.room} → ${one.toText}`);
      printLine(trackWithTime(one));
      printLine(verdictText(one));
    }
  });
