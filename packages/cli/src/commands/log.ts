/** `bold-relay log`: what was asked, newest last as in every log, and how far it got. */

import { answerText, LOG_RESULTS, type LogQuery, type LogResult, type RequestView, reachedText } from "@bold-relay/api";
import { outcomeWords } from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { requestedBy, trackWithTime, when } from "../describe.ts";
import { faint, printJson, printLine, wrong } from "../output.ts";
import { table, unbroken } from "../table.ts";

interface LogOptions {
  readonly limit: number;
  readonly site?: string;
  readonly channel?: string;
  readonly asker?: string;
  readonly result?: LogResult;
  readonly words?: string;
}

export const logCommand = new Command("log")
  .description("the request log; the newest request is the last line")
  .addOption(new Option("--limit <n>", "number of requests, 1 to 200").argParser(count).default(30))
  .option("--site <slug>", "only this site")
  .option("--channel <name>", "only this channel, by name or address")
  .option("--asker <name>", "only requests of this person or system")
  .addOption(new Option("--result <result>", "only requests with this result").choices([...LOG_RESULTS]))
  .option("--words <text>", "of the last 24 h: a person, a place, a channel, or words of the request")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay log --result not-delivered
  bold-relay log --site fennel-hall --result refused
  bold-relay log --channel "porch lantern, finch" --limit 5
  bold-relay log --words guest --json | jq -r .id`,
  )
  .action(async (options: LogOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const query: LogQuery = { ...options };
    const { requests } = await client.log(query);
    const oldestFirst = requests.reverse();
    if (json) for (const request of oldestFirst) printJson(request);
    else if (oldestFirst.length === 0) printLine("No request matches.");
    else
      printLine(
        table(["time", "requested by", "request", "progress", "result"], oldestFirst.map(row), [], { optional: [4] }),
      );
  });

function row(request: RequestView): string[] {
  const [command] = request.commands;
  const single = command && request.commands.length === 1;
  const asked = single
    ? `${command.channelName}, ${command.room} → ${command.toText}`
    : `“${request.target}”${request.action === "say" ? "" : ` ${request.action}`}`;
  const got = single
    ? unbroken(trackWithTime(command))
    : command
      ? severalText(request)
      : wrong(outcomeWords(request.outcome));
  const answer = single ? command.verdict.headline : command ? answerText(request) : (request.refusal?.title ?? "");
  return [when.clock(request.at), requestedBy(request), asked, got, faint(answer)];
}

/** "3 of 4, partly" */
function severalText(request: RequestView): string {
  const text = `${reachedText(request)}, ${outcomeWords(request.outcome)}`;
  return request.outcome === "delivered" || request.outcome === "open" ? text : wrong(text);
}

function count(text: string): number {
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > 200)
    throw new InvalidArgumentError("A whole number from 1 to 200.");
  return value;
}
