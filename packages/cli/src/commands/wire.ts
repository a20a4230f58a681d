/** `bold-relay wire` and `publish`: what is really on the broker, and one message by hand. */
import type { PublishBody, WireEvent, WireMessageView } from "@bold-relay/api";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";

export const wireCommand = new Command("wire")
  .description("show messages of the broker live until Ctrl-C")
  .argument("[filter]", "an MQTT topic filter, like alder-row/wren/#", "#")
  .option("--all", "command topics and unassigned topics, too; the broker then cannot tell that no device listens")
  .option("--count <n>", "stop after this number of messages", Number)
  .addHelpText(
    "after",
    `
Each line: time, topic, payload, and what it is. → was written by the service, ← came from a device, ∙ was retained.

Examples:
  bold-relay wire alder-row/finch/#          one device
  bold-relay wire --all "new/#"              topics of unassigned devices`,
  )
  .action(async (filter: string, { all, count }: { all?: true; count?: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const stop = new AbortController();
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop.abort());
    let left = count ?? Number.POSITIVE_INFINITY;
    const onEvent = (event: WireEvent) => {
      if (left <= 0) return;
      if (json) printJson({ event: event.name, ...event.data });
      else printEvent(event);
      if (event.name !== "message") return;
      left -= 1;
      if (left <= 0) stop.abort();
    };
    await client.wire({ filter, all: all ?? false }, onEvent, stop.signal).catch((error: unknown) => {
      if (!stop.signal.aborted) throw error;
    });
  });

export const publishCommand = new Command("publish")
  .description("publish one message by hand; it is in the audit log and never retained")
  .argument("<topic>")
  .argument("[payload]")
  .option("--hex", "the payload is bytes in hexadecimal, like A0 01")
  .option("--qos <n>", "0 or 1", Number, 1)
  .option("--clear", "delete the retained message of the topic")
  .option("--confirm", "publish although you yourself have locked out the channel")
  .action(async (topic: string, payload: string | undefined, options: PublishOptions, command: Command) => {
    const { client } = connectionOf(command);
    const body: PublishBody = { topic, qos: options.qos === 0 ? 0 : 1 };
    if (options.clear) body.clear = true;
    else body.payload = payload ?? "";
    if (options.hex) body.as = "hex";
    if (options.confirm) body.confirm = true;
    await client.publish(body);
    printLine(options.clear ? `The retained message on ${bold(topic)} is deleted.` : `Published on ${bold(topic)}.`);
  });

interface PublishOptions {
  readonly hex?: true;
  readonly qos: number;
  readonly clear?: true;
  readonly confirm?: true;
}

function printEvent(event: WireEvent): void {
  if (event.name === "message") return printLine(messageLine(event.data));
  if (event.name === "skipped") return printLine(faint(`… ${event.data.count} more than can be read were left out`));
  if (event.name === "missing") return printLine(missingLine(event.data.instances));
  if (event.name === "ended") return printLine(wrong(`The wire ended: ${event.data.why}.`));
  if (event.data.masks) {
    printLine(faint("While all topics are shown, the broker cannot tell that no device listens to commands."));
  }
}

function missingLine(instances: readonly string[]): string {
  if (instances.length === 0) return faint("All instances answer again: all messages are shown.");
  return wrong(`No answer from ${instances.join(", ")}: commands published from there are not shown.`);
}

function messageLine(message: WireMessageView): string {
  const { at, topic, text, role, channel, device, meaning, retained, own, commandId } = message;
  const sign = own ? "→" : retained ? "∙" : "←";
  const what = role === null ? "unassigned" : [ROLES[role], channel ?? device, meaning].filter(Boolean).join(", ");
  const command = commandId === null ? "" : faint(` ${commandId.slice(-6)}`);
  return `${faint(when.clockMs(at))} ${sign} ${bold(topic)}  ${text}  ${faint(what)}${command}`;
}

const ROLES = { do: "command", ask: "state query", done: "acknowledgement", is: "report", here: "presence" } as const;
