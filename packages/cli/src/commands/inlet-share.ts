/** `bold-relay inlet share`: a link to a panel, with a key of its own, and what its holder can do. */
import { createPanelClient, type PanelItemView, ProblemError } from "@bold-relay/api";
import { type InletDescription, inletKinds, panelSettings } from "@bold-relay/core";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { httpTransport } from "../http-transport.ts";
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
    const { inlet } = await client.inlet(slug);
    if (!inletKinds[inlet.kind].page)
      throw new Error(`Only a panel can be shared. ${inlet.name} is a ${inlet.kind} inlet.`);
    const expiresInDays = Number(days) === 0 ? null : Number(days);
    const { key, expiresAt } = await client.addKey({ name, inlet: slug, expiresInDays });
    const link = `${url}/panel/${slug}#${key}`;
    const reach = await reachOf(inlet, url, key);
    if (json) return printJson({ link, expiresAt, ...reach });
    printReach(reach);
    printLine(expiresAt === null ? "It does not expire." : `It expires at ${when.dateTime(expiresAt)}.`);
    printLine();
    printLine(bold(link));
    printLine();
    const { renderUnicodeCompact } = await import("uqr");
    printLine(renderUnicodeCompact(link));
    printLine(faint("Shown once. To end it: bold-relay key revoke"));
  });

interface PanelReach {
  readonly switches: readonly string[];
  readonly sees: readonly string[];
}

/** Asked with the link's own key: what is told is what its holder gets. */
async function reachOf(inlet: InletDescription, baseUrl: string, key: string): Promise<PanelReach> {
  const { slug } = inlet;
  try {
    const { items } = await createPanelClient({ baseUrl, slug, key, transport: httpTransport }).view();
    const shown = items.filter(({ is }) => is !== "heading" && is !== "gone");
    const acts = ({ actions }: PanelItemView) => actions.length > 0;
    return {
      switches: shown.filter(acts).map(({ name }) => name),
      sees: shown.filter((item) => !acts(item)).map(({ name }) => name),
    };
  } catch (error) {
    if (!(error instanceof ProblemError) || error.problem.code !== "pin-needed") throw error;
    // Behind its PIN: by what is described.
    const { items, acts = true } = panelSettings(inlet);
    const shown = items.flatMap((item) => ("show" in item ? [item] : []));
    const name = ({ show, name: own }: (typeof shown)[number]) => own ?? show;
    return {
      switches: shown.filter((item) => acts && item.acts !== false).map(name),
      sees: shown.filter((item) => !acts || item.acts === false).map(name),
    };
  }
}

function printReach({ switches, sees }: PanelReach): void {
  if (switches.length > 0) printLine(`Whoever has this link can switch: ${switches.join(", ")}.`);
  if (sees.length > 0) printLine(`Whoever has this link can see: ${sees.join(", ")}.`);
}
