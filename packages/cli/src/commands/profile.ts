/** `bold-relay profile`: what devices of one make have in common: list, save, load, and try before it is used. */
import { readFile, writeFile } from "node:fs/promises";
import type { MessageBody, ProfileTrialBody, ProfileTrialView, WireMessageView } from "@bold-relay/api";
import { type ChannelDescription, type KindName, kindNames } from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { readDescription } from "../description-file.ts";
import { EXIT } from "../exit.ts";
import { bold, faint, printJson, printLine, printText, wrong } from "../output.ts";
import { table } from "../table.ts";

export const profileCommand = new Command("profile").description(
  "what devices of one make have in common: list, save, load, try",
);

profileCommand
  .command("list", { isDefault: true })
  .description("list profiles with their number of devices")
  .action(async (_options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const profiles = await client.profiles();
    if (json) return profiles.forEach(printJson);
    const rows = profiles.map(({ profile: { slug, name }, devices }) => [bold(slug), String(devices), name]);
    printLine(table(["profile", "devices", "name"], rows, [1]));
  });

profileCommand
  .command("save <profile> [file]")
  .description("write a profile to a file, or to standard output")
  .action(async (slug: string, file: string | undefined, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    const found = (await client.profiles()).find(({ profile }) => profile.slug === slug);
    if (!found) throw new Error(`There is no profile “${slug}”. See: bold-relay profile list`);
    if (file === undefined) return printText(stringify(found.profile));
    await writeFile(file, stringify(found.profile));
    printLine(`${bold(found.profile.name)} is in ${file}.`);
  });

profileCommand
  .command("load <file>")
  .description("add a profile, or replace the one with the same slug; no restart is needed")
  .option("--at <version>", "only if the service has this version; 0: only if there is none", Number)
  .action(async (file: string, { at }: { at?: number }, command: Command) => {
    const { client, json } = connectionOf(command);
    const profile = (await readDescription(file)) as Parameters<typeof client.saveProfile>[0];
    const { version } = await client.saveProfile(profile, at ?? null);
    if (json) printJson({ profile: profile.slug, version });
    else printLine(`${bold(profile.name)}: version ${version} is loaded.`);
  });

profileCommand
  .command("delete <profile>")
  .description("delete a profile that no device uses")
  .action(async (slug: string, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    await client.deleteProfile(slug, null);
    printLine(`The profile ${bold(slug)} is deleted.`);
  });

interface TryOptions {
  readonly device: string;
  readonly channel: ChannelDescription[];
  readonly message: MessageBody[];
  readonly messages?: string;
}

profileCommand
  .command("try <profile>")
  .description("show what a profile writes and how it reads messages; nothing is sent or saved")
  .addOption(new Option("--device <identifier>", "the device in its topics").default("board"))
  .addOption(
    new Option(
      "--channel <identifier:kind>",
      "a channel of the device; may be repeated; of a setpoint with its range, heat:setpoint:5:28:0.5; default one:relay",
    )
      .argParser(channelOf)
      .default([], "one:relay"),
  )
  .addOption(
    new Option("--message <topic=payload>", "a recorded message; may be repeated; bytes begin with hex:")
      .argParser(messageOf)
      .default([], "none"),
  )
  .option(
    "--messages <file>",
    "messages that were recorded, one a line: topic payload, or what bold-relay wire --json prints",
  )
  .addHelpText(
    "after",
    `
<profile> is the identifier of a profile that is loaded, or a file that is not.

Examples:
  bold-relay profile try relay.yaml --channel lamp:light
  bold-relay profile try level-255 --channel one:dimmer --message 'site/board/one/state=128'
  bold-relay profile try frames.yaml --message 'site/board/out=hex:A0 01 01 A2'
  bold-relay wire 'garage/#' --count 20 --json > heard.txt
  bold-relay profile try capital-words --messages heard.txt`,
  )
  .action(async (profile: string, options: TryOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const recorded = options.messages === undefined ? [] : await readMessages(options.messages);
    const isFile = /[./]/.test(profile);
    const channels =
      options.channel.length > 0 ? options.channel : [channelOf("one:relay", [])[0] as ChannelDescription];
    const trial = await client.tryProfile({
      profile: isFile ? ((await readDescription(profile)) as ProfileTrialBody["profile"]) : profile,
      device: { slug: options.device, channels },
      messages: [...options.message, ...recorded],
    });
    const isWrong = trial.findings.some(({ level }) => level === "wrong");
    process.exitCode = isWrong ? EXIT.notReached : EXIT.reached;
    if (json) printJson(trial);
    else printTrial(trial);
  });

function printTrial({ writes, reads, findings, nearest }: ProfileTrialView): void {
  for (const { level, text } of findings) printLine(level === "wrong" ? `${wrong("✗")} ${text}` : `? ${text}`);
  printLine(bold("It would write:"));
  const sent = writes.map((one) => {
    const flags = [`QoS ${one.qos}`, ...(one.retain ? ["retained"] : []), `expires ${one.expiryS} s`].join(", ");
    return [one.channel, one.action, one.to, one.topic, one.payload, faint(flags)];
  });
  printLine(table(["channel", "action", "to", "topic", "payload", "flags"], sent));
  if (reads.length === 0) return;
  printLine("");
  printLine(bold("It would read:"));
  const read = reads.map((one) => [
    one.topic,
    one.payload,
    one.takenFor ?? "nothing",
    one.channel ?? "",
    one.means,
    one.proves,
  ]);
  printLine(table(["topic", "payload", "taken for", "channel", "says", "proves"], read));
  if (nearest.length === 0) return;
  printLine("");
  printLine(bold("Profiles that understand these payloads:"));
  for (const one of nearest)
    printLine(
      `  ${one.profile.padEnd(22)} ${one.understood} of ${reads.length}, ${one.exact} exactly  ${faint(one.name)}`,
    );
}

function channelOf(text: string, before: ChannelDescription[]): ChannelDescription[] {
  const [slug = "", kind = "relay", ...numbers] = text.split(":");
  const [least = Number.NaN, most = Number.NaN, step = 1] = numbers.map(Number);
  if (!kindNames.includes(kind as KindName))
    throw new InvalidArgumentError(`“${kind}” is not a kind. Kinds: ${kindNames.join(", ")}.`);
  if (numbers.length > 0 && ![least, most, step].every(Number.isFinite))
    throw new InvalidArgumentError("The range of a setpoint is written least:most:step, as in heat:setpoint:5:28:0.5.");
  const range = numbers.length > 0 ? { range: { least, most, step } } : {};
  return [...before, { slug, name: slug, kind: kind as KindName, ...range }];
}

function messageOf(text: string, before: MessageBody[]): MessageBody[] {
  const cut = text.indexOf("=");
  if (cut < 1) throw new InvalidArgumentError("A message is written topic=payload.");
  return [...before, message(text.slice(0, cut), text.slice(cut + 1))];
}

async function readMessages(file: string): Promise<MessageBody[]> {
  const lines = (await readFile(file, "utf8")).split(/\r?\n/).filter((line) => line.trim() !== "");
  return lines.flatMap((line) => {
    if (line.startsWith("{")) return fromWire(JSON.parse(line));
    const cut = line.indexOf(" ");
    return cut < 0 ? message(line, "") : message(line.slice(0, cut), line.slice(cut + 1));
  });
}

/** As `bold-relay wire --json` prints it; its other events are no messages. */
function fromWire(line: { event: string } & Pick<WireMessageView, "topic" | "hex" | "retained">): MessageBody[] {
  const { event, topic, hex, retained } = line;
  return event === "message" ? [{ topic, hex, retained }] : [];
}

function message(topic: string, payload: string): MessageBody {
  return payload.startsWith("hex:") ? { topic, hex: payload.slice(4).trim() } : { topic, text: payload };
}
