/** `bold-relay devices`: every device, its table as a file, and its users at the broker. */
import type { DeviceView } from "@bold-relay/api";
import { accessLines, presenceWords } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { sitesNamed } from "../named.ts";
import { bold, faint, printJson, printLine, wrong } from "../output.ts";
import { outOption, writeSecret } from "../secret-file.ts";
import { table } from "../table.ts";
import { type ChangeOptions, changeSite, previewOption } from "./change-site.ts";
import { exportDevices, importDevices } from "./device-table.ts";

interface ListOptions {
  readonly access?: true;
}

export const devicesCommand = new Command("devices").description(
  "list devices; their table as a file, their broker credentials, where they are",
);

devicesCommand
  .command("list [site]", { isDefault: true })
  .description("list devices: room, profile, number of channels, presence")
  .option(
    "--access",
    "print the rights that each device needs at the broker, as lines of a mosquitto access file; its user is site.device",
  )
  .addHelpText(
    "after",
    `
Presence: online or offline, as the device reports it or by its last will. Never heard: it has never said so. Not watched: its
profile has no topic for it.`,
  )
  .action(async (slug: string | undefined, { access }: ListOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const verbs = devicesCommand.commands.map((one) => one.name());
    const [sites, all] = await Promise.all([sitesNamed(client, slug, verbs), client.devices()]);
    const devices = all.filter(({ site }) => sites.some((one) => one.slug === site.slug));
    if (access) for (const device of devices) printAccess(device);
    else if (json) for (const device of devices) printJson(device);
    else if (devices.length === 0) printLine("No devices yet. Add them from a table: bold-relay devices import");
    else printLine(deviceTable(devices));
  });

devicesCommand.addCommand(exportDevices).addCommand(importDevices);

devicesCommand
  .command("identify <device>")
  .description("find the device: one of its lamps blinks twice")
  .action(async (device: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const told = await client.identify(device);
    if (json) printJson(told);
    else printLine(`${bold(told.name)} (${told.channel}) has blinked.`);
  });

devicesCommand
  .command("move <device> <room>")
  .description("move a device to another room of its site; topics and history stay")
  .addOption(previewOption())
  .action((address: string, room: string, options: ChangeOptions, command: Command) => {
    const [site = "", name = ""] = address.split("/");
    return changeSite(command, site, { edit: "patch", part: "devices", name, fields: { room } }, options);
  });

devicesCommand
  .command("delete <device>")
  .description("delete a device, also from groups, scenes and interlocks; log and history stay")
  .addOption(previewOption())
  .action((address: string, options: ChangeOptions, command: Command) => {
    const [site = "", name = ""] = address.split("/");
    return changeSite(command, site, { edit: "delete", part: "devices", name }, options);
  });

interface CredentialOptions {
  readonly overlap: number;
  readonly env?: true;
  readonly out?: string;
}

devicesCommand
  .command("credentials <device>")
  .description(
    "create a user at the broker for a device, with rights to its own topics only; the password is shown once",
  )
  .option("--overlap <h>", "hours until its earlier users expire", Number, 0)
  .option("--env", "print shell lines that set MQTT_USER and MQTT_PASSWORD")
  .addOption(outOption("the shell lines of --env"))
  .action(async (device: string, { overlap, env, out }: CredentialOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const made = await client.makeCredentials(device, overlap);
    const lines = `export MQTT_USER=${made.username}\nexport MQTT_PASSWORD=${made.password}`;
    if (out !== undefined) {
      await writeSecret(out, `${lines}\n`);
      return printLine(`The user ${bold(made.username)} and its password are in ${out}.`);
    }
    if (json) return printJson(made);
    if (env) return printLine(lines);
    printLine(`user       ${made.username}`);
    printLine(`client id  ${made.clientId}`);
    printLine(`password   ${made.password}`);
    if (made.broker !== null) printLine(`broker     ${made.broker.url}`);
    printLine(
      faint(
        overlap > 0
          ? `The password is shown only now. Earlier users of the device expire in ${overlap} h.`
          : "The password is shown only now. Earlier users of the device have expired.",
      ),
    );
  });

devicesCommand
  .command("revoke <device>")
  .description("delete every user that a device has at the broker; its connection ends at once")
  .action(async (device: string, _options: object, command: Command) => {
    const { client } = connectionOf(command);
    await client.revokeCredentials(device);
    printLine(`${bold(device)} has no user at the broker now. Its connection has ended.`);
  });

/** A device's own topics, for a broker that knows each by a user of its own. */
function printAccess({ address, access }: DeviceView): void {
  for (const line of accessLines(address.replace("/", "."), access)) printLine(line);
  printLine();
}

function deviceTable(devices: readonly DeviceView[]): string {
  const rows = devices.map(({ address, name, room, profile, presence, channels }) => [
    address,
    name,
    room.name,
    profile.slug,
    String(channels.length),
    presence === "offline" ? wrong("offline") : presenceWords(presence),
  ]);
  return table(["device", "name", "room", "profile", "channels", "presence"], rows, [4], { optional: [3, 2] });
}
