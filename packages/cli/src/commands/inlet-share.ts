/** `bold-relay inlet share`: a link to a panel, with a key of its own, and what its holder can do. */
import type { InletDescriptionView } from "@bold-relay/api";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine } from "../output.ts";

interface ShareOptions {
  readonly name: string;
  readonly days: string;
}

export const shareCommand = new Command("share")
  .description("create a link to a panel; it is shown once")
  .argument("<panel>")
  .option("--name <name>", "who or what gets the link; a link of the same name ends", "link")
  .option("--days <n>", "days until the link expires; 0: never", "90")
  .addHelpText("after", '\nExample:\n  bold-relay inlet share wren-kitchen --name "Kitchen tablet" --days 365')
  .action(async (slug: string, { name, days }: ShareOptions, command: Command) => {
    const { client, json, url } = connectionOf(command);
    const { inlet, reach } = await client.inlet(slug);
    if (!reach) throw new Error(`Only a panel can be shared. ${inlet.name} is a ${inlet.kind} inlet.`);
    const expiresInDays = Number(days) === 0 ? null : Number(days);
    const { id, key, expiresAt } = await client.addKey({ name, inlet: slug, expiresInDays });
    const link = `${url}/panel/${slug}#${key}`;
    if (json) return printJson({ id, link, expiresAt, ...reach });
    printReach(reach);
    printLine(expiresAt === null ? "It does not expire." : `It expires at ${when.dateTime(expiresAt)}.`);
    printLine();
    printLine(bold(link));
    printLine();
    const { renderUnicodeCompact } = await import("uqr");
    printLine(renderUnicodeCompact(link));
    printLine(faint(`Shown only now. To end it: bold-relay key revoke ${id}`));
  });

function printReach({ switches, sees, pin }: NonNullable<InletDescriptionView["reach"]>): void {
  if (switches.length > 0) printLine(`Whoever has this link can switch: ${switches.join(", ")}.`);
  if (sees.length > 0) printLine(`Whoever has this link can see: ${sees.join(", ")}.`);
  if (pin) printLine("The PIN is asked for first.");
}
