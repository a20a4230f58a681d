/** `bold-relay state`: what every channel is, beside what it was told. */
import type { ChannelView } from "@bold-relay/api";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { byText, isText, toldText, trackWithTime } from "../describe.ts";
import { bold, faint, printJson, printLine } from "../output.ts";
import { table, unbroken } from "../table.ts";

export const stateCommand = new Command("state")
  .description("commanded value and state of every channel")
  .argument("[site-or-channel]", "only this site, device or channel: an address or its beginning")
  .addHelpText(
    "after",
    "\nExamples:\n  bold-relay state\n  bold-relay state alder-row/finch\n  bold-relay state --json | jq .observed.value",
  )
  .action(async (address: string | undefined, _options, command: Command) => {
    const { client, json } = connectionOf(command);
    const { sites } = await client.board();
    const wanted = (channel: ChannelView) => address === undefined || isBelow(channel.address, address);
    const chosen = sites.map((site) => ({ ...site, channels: site.channels.filter(wanted) }));
    const some = chosen.filter((site) => site.channels.length > 0);
    if (some.length === 0 && address !== undefined) {
      throw new Error(`Nothing has the address “${address}”. Sites: ${sites.map((site) => site.slug).join(", ")}.`);
    }
    if (json) {
      for (const site of some) for (const channel of site.channels) printJson(channel);
      return;
    }
    for (const [index, site] of some.entries()) {
      if (index > 0) printLine();
      printLine(bold(site.name));
      printLine(stateTable(site.channels));
    }
  });

/** One row a channel, rooms named where they begin. */
export function stateTable(channels: readonly ChannelView[], now = Date.now()): string {
  let room = "";
  const rows = channels.map((channel) => {
    const begins = channel.room.name !== room;
    room = channel.room.name;
    return [
      String(channel.number),
      begins ? bold(room) : "",
      channel.name,
      isText(channel, now),
      toldText(channel),
      channel.lastCommand ? unbroken(trackWithTime(channel.lastCommand)) : faint("never commanded"),
      byText(channel, now),
      faint(channel.address),
    ];
  });
  return table(["no.", "room", "channel", "state", "commanded", "last command", "requested by", "address"], rows, [0], {
    optional: [7, 6, 4],
  });
}

function isBelow(address: string, beginning: string): boolean {
  const plain = beginning.replace(/\/+$/, "");
  return address === plain || address.startsWith(`${plain}/`);
}
