/** `bold-relay channel`: the settings of one channel, shown and changed. */
import { channelOf } from "@bold-relay/core";
import { Command } from "commander";
import { parse, stringify } from "yaml";
import { connectionOf } from "../connection.ts";
import { printJson, printLine } from "../output.ts";
import { type ChangeOptions, changeSite, previewOption } from "./change-site.ts";
import { addList, CHANNELS } from "./site-lists.ts";

export const channelCommand = new Command("channel")
  .description("list, show, change and delete channels of a device")
  .addHelpText(
    "after",
    `
A channel is named by its address, site/device/channel. Settings are those of a site's file.

Examples:
  bold-relay channel show alder-row/wren/porch
  bold-relay channel set alder-row/wren/porch name="Porch lantern" delivery.autoOffMs=900000
  bold-relay channel set alder-row/wren/porch delivery.autoOffMs=null        back to the profile's setting
  bold-relay channel delete alder-row/wren/spare --preview`,
  );

addList(channelCommand, CHANNELS);

channelCommand
  .command("show <channel>")
  .description("print the settings of a channel, as in its site's file")
  .action(async (address: string, _options: object, command: Command) => {
    const { client, json } = connectionOf(command);
    const { site, name } = pathOf(address);
    const channel = channelOf((await client.site(site)).site, name);
    if (channel === null) throw new Error(`There is no channel “${address}”.`);
    if (json) printJson(channel);
    else printLine(stringify(channel).trimEnd());
  });

channelCommand
  .command("set <channel> <settings...>")
  .description("change settings: field=value, or field.field=value; null goes back to the default")
  .addOption(previewOption())
  .action((address: string, settings: string[], options: ChangeOptions, command: Command) => {
    const { site, name } = pathOf(address);
    return changeSite(command, site, { edit: "patch", part: "channels", name, fields: fieldsOf(settings) }, options);
  });

channelCommand
  .command("delete <channel>")
  .description("delete a channel of a device; log and history stay")
  .addOption(previewOption())
  .action((address: string, options: ChangeOptions, command: Command) => {
    const { site, name } = pathOf(address);
    return changeSite(command, site, { edit: "delete", part: "channels", name }, options);
  });

function pathOf(address: string): { site: string; name: string } {
  const [site = "", ...rest] = address.split("/");
  if (rest.length !== 2) throw new Error(`“${address}” is no address. Write site/device/channel.`);
  return { site, name: rest.join("/") };
}

/** @example fieldsOf(["delivery.autoOffMs=60000", "name=Porch"]) // → { delivery: { autoOffMs: 60000 }, name: "Porch" } */
function fieldsOf(settings: readonly string[]): Record<string, unknown> {
  const fields: Record<string, unknown> = {};
  for (const setting of settings) {
    const cut = setting.indexOf("=");
    if (cut < 1) throw new Error(`“${setting}” is no setting. Write field=value.`);
    const path = setting.slice(0, cut).split(".");
    const last = path.pop() ?? "";
    let holder = fields;
    for (const field of path) {
      const inner = (Object.hasOwn(holder, field) ? holder[field] : {}) as Record<string, unknown>;
      holder[field] = inner;
      holder = inner;
    }
    holder[last] = parse(setting.slice(cut + 1));
  }
  return fields;
}
