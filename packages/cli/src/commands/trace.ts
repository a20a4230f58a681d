/** `bold-relay trace`: everything about one request, hop by hop, and where and why it stopped. */
import type { Client, CommandView, HopView, ReplyView, TraceView } from "@bold-relay/api";
import { formatDuration, ignoredNote, presenceWords } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { exitCodeOf, requestedBy, trackWithTime, verdictText, when } from "../describe.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";
import { table } from "../table.ts";
import { printUsed } from "./say.ts";

export const traceCommand = new Command("trace")
  .description("show every hop of a request, and where and why it stopped")
  .argument("[id]", "the request's id, or “last” for the newest", "last")
  .option("--channel <address>", "with “last”: the newest request of this channel")
  .addHelpText(
    "after",
    `
Exit code 0 when the request was delivered, 1 when it was not.

Examples:
  bold-relay trace last
  bold-relay trace last --channel alder-row/finch/porch
  bold-relay trace 01a2b3c4-0000-7000-8000-000000000000 --json`,
  )
  .action(async (id: string, { channel }: { channel?: string }, command: Command) => {
    const { client, json } = connectionOf(command);
    const trace = await client.trace(id === "last" ? await newestId(client, channel) : id);
    process.exitCode = exitCodeOf(trace);
    if (json) printJson(trace);
    else printTrace(trace);
  });

/** @throws Error when there is none */
export async function newestId(client: Client, channel?: string): Promise<string> {
  const { requests } = await client.log(channel === undefined ? { limit: 1 } : { limit: 1, channel });
  const [newest] = requests;
  if (!newest) throw new Error("No requests yet.");
  return newest.id;
}

function printTrace(trace: TraceView): void {
  printLine(`${bold(`“${trace.target}” ${trace.action}`)}  ${faint(trace.id)}`);
  printLine(`Requested by ${requestedBy(trace)}, ${when.clockMs(trace.at)}`);
  if (trace.traceparent !== null) printLine(faint(`In its caller's trace ${trace.traceId}`));
  if (trace.said) printSaid(trace.said);
  if (trace.refusal) {
    printLine();
    printLine(`${wrong(bold(`${trace.refusal.title}.`))} ${trace.refusal.detail}`);
  }
  for (const { command, device, hops } of trace.traces) {
    const presence = device.presence === "offline" ? wrong("offline") : presenceWords(device.presence);
    printLine();
    printLine(
      `${bold(command.channelName)}, ${command.room} → ${command.toText}  ${faint(`${device.name}, ${presence}`)}`,
    );
    printLine(trackWithTime(command));
    printLine(verdictText(command));
    printLine();
    printLine(
      table(
        ["after", "hop", "what"],
        hops.map((hop) => hopRow(hop, command)),
        [0],
      ),
    );
  }
  if (trace.replies.length > 0) printLine();
  for (const reply of trace.replies) printLine(replyWords(reply));
}

const HOW = { answer: "Answered", post: "Posted back", topic: "Published back", typed: "Typed back" } as const;

function replyWords({ afterMs, how, said, taken, why }: ReplyView): string {
  const words = `${HOW[how]} after ${formatDuration(afterMs)}: “${said}”`;
  return taken ? words : `${words} ${wrong(`Not taken: ${why}.`)}`;
}

/** What came in, and which of its words gave what. */
function printSaid({ words, route, used }: NonNullable<TraceView["said"]>): void {
  printLine(`It said: “${words}”${route === null ? "" : `, caught by route ${route}`}`);
  printUsed(used, "  ");
}

function hopRow(hop: HopView, command: CommandView): string[] {
  const stopped = ["refused", "doubted"].includes(hop.kind) || hop.kind === "contradicted" || hop.kind === "link-lost";
  return [formatDuration(hop.afterMs), stopped ? wrong(hop.kind) : hop.kind, hopWords(hop, command)];
}

function hopWords({ kind, attempt, code, wire, note, remark, measured }: HopView, command: CommandView): string {
  const words: string[] = [];
  if (attempt !== undefined) words.push(`attempt ${attempt}`);
  if (kind === "ended") words.push(command.end ?? "");
  else if (kind === "published") words.push("the broker has it");
  else if (code !== undefined) words.push(wire ? `device's code ${code}` : `broker's reason ${code}`);
  if (kind === "unchanged") words.push("the device reports changes only, and has reported this before");
  if (remark) words.push(ignoredNote(remark));
  if (measured) words.push("measured: another channel sees it");
  if (note !== undefined) words.push(note);
  if (wire) words.push(faint(`${wire.topic}  ${wire.payload}`));
  return words.join("  ");
}
