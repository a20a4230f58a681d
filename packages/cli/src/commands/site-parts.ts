/** `bold-relay room`, `group`, `scene`, `interlock`: parts of a site, added, changed and deleted one by one. */
import type { BoardView, ChannelView } from "@bold-relay/api";
import { captureScene, normalName, ONE, type SceneDescription, type SitePart } from "@bold-relay/core";
import { Command, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { channelNames } from "../describe.ts";
import { faint, printLine } from "../output.ts";
import { type ChangeOptions, changeSite, previewOption } from "./change-site.ts";
import { addList, GROUPS, INTERLOCKS, ROOMS, SCENES } from "./site-lists.ts";

interface NameOption extends ChangeOptions {
  readonly name?: string;
}

const nameOption = () => new Option("--name <name>", "what people call it; default: its identifier");

export const roomCommand = new Command("room").description("list, add, rename, move and delete the rooms of a site");

addList(roomCommand, ROOMS);

roomCommand
  .command("add <site> <identifier>")
  .description("add a room")
  .addOption(nameOption())
  .addOption(previewOption())
  .action((site: string, name: string, options: NameOption, command: Command) =>
    put(command, site, "rooms", name, { name: options.name ?? name }, options),
  );

roomCommand
  .command("rename <site> <room> <name>")
  .description("change what people call a room; its identifier stays")
  .addOption(previewOption())
  .action((site: string, room: string, name: string, options: ChangeOptions, command: Command) =>
    changeSite(command, site, { edit: "patch", part: "rooms", name: room, fields: { name } }, options),
  );

roomCommand
  .command("move <site> <room> <place>")
  .description("move a room to another place on the board, counted from 1")
  .addOption(previewOption())
  .action((site: string, room: string, place: string, options: ChangeOptions, command: Command) =>
    changeSite(command, site, { edit: "patch", part: "rooms", name: room, fields: { place: Number(place) } }, options),
  );

addDelete(roomCommand, "rooms", "a room that has no devices");

export const groupCommand = new Command("group")
  .description("list, add and delete groups: channels that are switched together")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay group add glasshouse vents house-one/vent-east house-one/vent-west --name "All vents"
  bold-relay group delete glasshouse vents --preview`,
  );

addList(groupCommand, GROUPS);

groupCommand
  .command("add <site> <identifier> <channels...>")
  .description("add a group, or replace the one with this identifier; a channel is device/channel")
  .addOption(nameOption())
  .addOption(previewOption())
  .action((site: string, name: string, channels: string[], options: NameOption, command: Command) =>
    put(command, site, "groups", name, { name: options.name ?? name, channels }, options),
  );

addDelete(groupCommand, "groups", "a group; its channels stay");

export const sceneCommand = new Command("scene")
  .description("list, add, capture and delete scenes: a state for several channels")
  .addHelpText(
    "after",
    `
Examples:
  bold-relay scene add fennel-hall evening stage/left=colour:#ff8800 hall/main=level:40 heat/hall=off
  bold-relay scene capture fennel-hall as-now                   every channel of the site as it is now
  bold-relay scene capture fennel-hall as-now "hall" stage/left   a room, and one channel`,
  );

addList(sceneCommand, SCENES);

sceneCommand
  .command("add <site> <identifier> <settings...>")
  .description(
    "add a scene, or replace the one with this identifier; a setting is device/channel=action or …=action:value",
  )
  .addOption(nameOption())
  .addOption(previewOption())
  .action((site: string, name: string, settings: string[], options: NameOption, command: Command) =>
    put(command, site, "scenes", name, { name: options.name ?? name, sets: settings.map(settingOf) }, options),
  );

sceneCommand
  .command("capture <site> <identifier> [names...]")
  .description("make a scene of what is on now: of these channels and rooms, or of the whole site")
  .addOption(nameOption())
  .addOption(previewOption())
  .action(async (site: string, name: string, names: string[], options: NameOption, command: Command) => {
    const { client, json } = connectionOf(command);
    const { sets, left } = captureScene(capturedOf(await client.board(), site, names));
    if (!json) for (const { channel, why } of left) printLine(faint(`  not in the scene: ${channel}, ${why}`));
    if (sets.length === 0) throw new Error("No channel of these has a state that is known. No scene was made.");
    await put(command, site, "scenes", name, { name: options.name ?? name, sets }, options);
  });

addDelete(sceneCommand, "scenes", "a scene");

interface InterlockOptions extends ChangeOptions {
  readonly gap: number;
  readonly meets: "refuse" | "switch-off";
}

export const interlockCommand = new Command("interlock").description(
  "list, add and delete interlocks: channels of which one at most may be on",
);

addList(interlockCommand, INTERLOCKS);

interlockCommand
  .command("add <site> <name> <channels...>")
  .description("add an interlock, or replace the one with this name; a channel is device/channel")
  .addOption(
    new Option("--gap <ms>", "least time between one that is seen off and the next, ms").argParser(Number).default(0),
  )
  .addOption(
    new Option("--meets <what>", "what a request meets while another channel is on")
      .choices(["refuse", "switch-off"])
      .default("refuse"),
  )
  .addOption(previewOption())
  .action((site: string, name: string, channels: string[], options: InterlockOptions, command: Command) =>
    put(command, site, "interlocks", name, { channels, gapMs: options.gap, meets: options.meets }, options),
  );

addDelete(interlockCommand, "interlocks", "an interlock; its channels stay");

function put(
  command: Command,
  site: string,
  part: SitePart,
  name: string,
  fields: Record<string, unknown>,
  options: ChangeOptions,
) {
  return changeSite(command, site, { edit: "put", part, name, fields }, options);
}

function addDelete(parent: Command, part: SitePart, what: string): void {
  parent
    .command(`delete <site> <${ONE[part]}>`)
    .description(`delete ${what}; log and history stay`)
    .addOption(previewOption())
    .action((site: string, name: string, options: ChangeOptions, command: Command) =>
      changeSite(command, site, { edit: "delete", part, name }, options),
    );
}

/** @example settingOf("hall/main=level:40") // → { channel: "hall/main", action: "level", value: 40 } */
function settingOf(text: string): SceneDescription["sets"][number] {
  const [, channel, action, value] = /^([^=]+)=([^:]+)(?::(.+))?$/.exec(text) ?? [];
  if (channel === undefined || action === undefined)
    throw new Error(`“${text}” is no setting. Write device/channel=action or device/channel=action:value.`);
  if (value === undefined) return { channel, action };
  return { channel, action, value: /^-?\d+(?:\.\d+)?$/.test(value) ? Number(value) : value };
}

/** @throws Error when a name is neither a channel nor a room of the site */
function capturedOf(board: BoardView, slug: string, names: readonly string[]) {
  const site = board.sites.find((one) => one.slug === slug);
  if (!site) throw new Error(`There is no site “${slug}”.`);
  const chosen = new Set<ChannelView>();
  for (const name of names) {
    const wanted = normalName(name);
    const found = site.channels.filter(
      (channel) =>
        [channel.room.slug, channel.room.name].map(normalName).includes(wanted) ||
        channelNames(channel).includes(wanted),
    );
    if (found.length === 0) throw new Error(`${site.name} has no channel and no room called “${name}”.`);
    for (const one of found) chosen.add(one);
  }
  const all = names.length === 0 ? site.channels : [...chosen];
  return all.map(({ address, kind, observed }) => ({
    channel: address.split("/").slice(1).join("/"),
    kind,
    state: observed === null || observed.stale !== null ? null : observed.value,
  }));
}
