/** `bold-relay inlet secret`, `link`, `links`, `unlink`: what lets somebody use an inlet without a key of theirs. */
import type { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { bold, faint, printJson, printLine } from "../output.ts";
import { outOption, writeSecret } from "../secret-file.ts";
import { table } from "../table.ts";

/** @param parent `bold-relay inlet` */
export function addSecretAndLinks(parent: Command): void {
  parent
    .command("secret <inlet>")
    .description("create a secret for signed messages; it is shown once, the earlier one expires at once")
    .addOption(outOption("the secret"))
    .action(async (slug: string, { out }: { out?: string }, command: Command) => {
      const { client, json } = connectionOf(command);
      const made = await client.makeSecret(slug);
      if (out !== undefined) {
        await writeSecret(out, `${made.secret}\n`);
        return printLine(`The secret is in ${out}. Whoever signs with it needs no key (Standard Webhooks, v1).`);
      }
      if (json) return printJson(made);
      printLine(made.secret);
      printLine(faint("Shown only now. Whoever signs with it needs no key (Standard Webhooks, v1)."));
    });

  parent
    .command("link <inlet> <words...>")
    .description("create a signed link; who opens it and presses its button makes the request")
    .option("--hours <h>", "hours until it expires", Number, 24)
    .action(async (slug: string, words: string[], { hours }: { hours: number }, command: Command) => {
      const { client, json, url } = connectionOf(command);
      const made = await client.makeLink(slug, { phrase: words.join(" "), hours });
      if (json) return printJson(made);
      printLine(`${url}${made.path}`);
      printLine(faint(`Until ${made.until}. End it with: bold-relay inlet unlink ${slug} ${made.id}`));
    });

  parent
    .command("links <inlet>")
    .description("list the valid links of an inlet, without their addresses")
    .action(async (slug: string, _options, command: Command) => {
      const { client, json } = connectionOf(command);
      const links = await client.links(slug);
      if (json) return links.forEach(printJson);
      const rows = links.map(({ id, phrase, madeBy, until }) => [id, bold(phrase), madeBy, until]);
      printLine(
        rows.length === 0 ? "This inlet has no valid link." : table(["id", "phrase", "created by", "until"], rows),
      );
    });

  parent
    .command("unlink <inlet> <id>")
    .description("revoke one link at once")
    .action(async (slug: string, id: string, _options, command: Command) => {
      await connectionOf(command).client.revokeLink(slug, id);
      printLine("The link is revoked.");
    });
}
