/** `list` of the parts of sites: rooms, channels, groups, scenes and interlocks. */
import type { Client } from "@bold-relay/api";
import type { SiteDescription } from "@bold-relay/core";
import type { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { sitesNamed } from "../named.ts";
import { bold, printJson, printLine } from "../output.ts";
import { table } from "../table.ts";

interface PartList {
  /** "rooms" */
  readonly parts: string;
  readonly head: readonly string[];
  /** Of one site: for each part what programs get, and the cells after that of its site. */
  readonly rows: (site: SiteDescription) => readonly { readonly part: object; readonly cells: readonly string[] }[];
}

/** Adds `list [site]` to a noun; it is what the noun does by itself. */
export function addList(parent: Command, { parts, head, rows }: PartList): void {
  parent
    .command("list [site]", { isDefault: true })
    .description(`list the ${parts} of a site, or of all sites`)
    .action(async (slug: string | undefined, _options: object, command: Command) => {
      const { client, json } = connectionOf(command);
      const verbs = parent.commands.map((one) => one.name());
      const all = (await describedSites(client, slug, verbs)).flatMap((site) =>
        rows(site).map(({ part, cells }) => ({ part: { site: site.slug, ...part }, cells: [site.slug, ...cells] })),
      );
      if (json) for (const { part } of all) printJson(part);
      else if (all.length === 0) printLine(`No ${parts} yet.`);
      else
        printLine(
          table(
            ["site", ...head],
            all.map(({ cells }) => cells),
          ),
        );
    });
}

async function describedSites(
  client: Client,
  slug: string | undefined,
  verbs: readonly string[],
): Promise<SiteDescription[]> {
  const found: SiteDescription[] = [];
  // One after the other: a service takes few calls of one caller at once.
  for (const { slug: name } of await sitesNamed(client, slug, verbs)) found.push((await client.site(name)).site);
  return found;
}

export const ROOMS: PartList = {
  parts: "rooms",
  head: ["room", "name", "devices"],
  rows: ({ rooms }) =>
    rooms.map(({ slug, name, devices }) => ({
      part: { room: slug, name, devices: devices.map((device) => device.slug) },
      cells: [bold(slug), name, devices.map((device) => device.slug).join(", ")],
    })),
};

export const CHANNELS: PartList = {
  parts: "channels",
  head: ["channel", "name", "kind", "room"],
  rows: (site) =>
    site.rooms.flatMap((room) =>
      room.devices.flatMap((device) =>
        device.channels.map((channel) => {
          const address = `${site.slug}/${device.slug}/${channel.slug}`;
          return {
            part: { address, name: channel.name, kind: channel.kind, room: room.slug },
            cells: [bold(address), channel.name, channel.kind, room.name],
          };
        }),
      ),
    ),
};

export const GROUPS: PartList = {
  parts: "groups",
  head: ["group", "name", "channels"],
  rows: ({ groups = [] }) =>
    groups.map(({ slug, name, channels }) => ({
      part: { group: slug, name, channels },
      cells: [bold(slug), name, channels.join(", ")],
    })),
};

export const SCENES: PartList = {
  parts: "scenes",
  head: ["scene", "name", "sets"],
  rows: ({ scenes = [] }) =>
    scenes.map(({ slug, name, sets }) => ({
      part: { scene: slug, name, sets },
      cells: [
        bold(slug),
        name,
        sets
          .map(({ channel, action, value }) => `${channel}=${action}${value === undefined ? "" : `:${value}`}`)
          .join(" "),
      ],
    })),
};

export const INTERLOCKS: PartList = {
  parts: "interlocks",
  head: ["interlock", "channels", "meets"],
  rows: ({ interlocks = [] }) =>
    interlocks.map((interlock) => ({
      part: { interlock: interlock.name, ...interlock },
      cells: [bold(interlock.name), interlock.channels.join(", "), interlock.meets ?? "refuse"],
    })),
};
