/** `bold-relay lock` and `unlock`: hands in the panel, so that nothing switches until they are out again. */
import type { Client, LockoutView } from "@bold-relay/api";
import { normalName } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { channelNames } from "../describe.ts";
import { bold, printJson, printLine } from "../output.ts";

interface ReasonOption {
  readonly reason?: string;
}

export const lockCommand = new Command("lock")
  .description("lock out a channel or a device: every command is refused and names you")
  .argument("<words...>", "the channel by name or address, or the device by address")
  .option("--reason <text>", "is shown in every refusal")
  .addHelpText(
    "after",
    '\nExamples:\n  bold-relay lock "water heater" --reason "changing the contactor"\n  bold-relay lock alder-row/finch',
  )
  .action(async (words: string[], { reason }: ReasonOption, command: Command) => {
    const { client, json } = connectionOf(command);
    const target = words.join(" ");
    const lockout = await client.lockOut(reason === undefined ? { target } : { target, reason });
    if (json) return printJson(lockout);
    printLine(`${bold(target)} is locked out by ${lockout.holder}. Every command is refused until it is released:`);
    printLine(`bold-relay unlock ${target.includes(" ") ? `"${target}"` : target}`);
  });

export const unlockCommand = new Command("unlock")
  .description("end a lock-out; the lock-out of another member needs a reason")
  .argument("<words...>", "the channel by name or address, or the device by address")
  .option("--reason <text>", "why you end the lock-out of another member")
  .addHelpText(
    "after",
    '\nExamples:\n  bold-relay unlock "water heater"\n  bold-relay unlock alder-row/finch --reason "Tomas has gone home"',
  )
  .action(async (words: string[], { reason }: ReasonOption, command: Command) => {
    const { client, json } = connectionOf(command);
    const target = words.join(" ");
    const lockout = await lockoutOf(client, target);
    await client.release(lockout.id, reason === undefined ? {} : { reason });
    if (json) return printJson({ released: lockout.id });
    printLine(`${bold(target)} is released. It was locked out by ${lockout.holder}.`);
  });

/** @throws Error when nothing like this is locked out */
async function lockoutOf(client: Client, target: string): Promise<LockoutView> {
  const { sites } = await client.board();
  const held = sites.flatMap((site) => site.channels).filter((channel) => channel.lockout !== null);
  const found = held.find((channel) =>
    [normalName(channel.device.address), ...channelNames(channel)].includes(normalName(target)),
  );
  if (found?.lockout) return found.lockout;
  const names = held.map((channel) => channel.address).join(", ");
  throw new Error(`“${target}” is not locked out. ${names === "" ? "Nothing is." : `Locked out: ${names}.`}`);
}
