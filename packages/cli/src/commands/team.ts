/** `bold-relay member`, `key` and `audit`: who may do what. */
import type { KeyView, MemberBody, MemberView, NewKeyBody, NewKeyView } from "@bold-relay/api";
import { type AuditChange, auditChanges, auditWords, ROLES, type Role } from "@bold-relay/core";
import { Command, InvalidArgumentError, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { when } from "../describe.ts";
import { bold, faint, printJson, printLine } from "../output.ts";
import { outOption, writeSecret } from "../secret-file.ts";
import { table } from "../table.ts";

interface RoleOptions {
  readonly role?: Role;
  readonly at?: readonly { site: string; role: Exclude<Role, "owner"> }[];
}

const roleOption = () => new Option("--role <role>", "in the whole team").choices([...ROLES]);
const atOption = () =>
  new Option("--at <site=role>", "at one site; may be repeated").argParser(
    (text: string, before: RoleOptions["at"] = []) => [...before, siteRole(text)],
  );

export const memberCommand = new Command("member").description("members of the team and their roles");

memberCommand
  .command("list", { isDefault: true })
  .description("list members with their roles")
  .action(async (_options, command: Command) => {
    const { client, json } = connectionOf(command);
    const members = await client.members();
    if (json) for (const member of members) printJson(member);
    else
      printLine(
        table(
          ["name", "role", "since"],
          members.map((one) => [bold(one.name), rolesText(one), when.date(one.since)]),
        ),
      );
  });

memberCommand
  .command("add <name>")
  .description("add a member; the password, or the link of an invitation, is printed once")
  .option("--invite", "print a link by which they choose their password, valid for 7 days")
  .addOption(roleOption())
  .addOption(atOption())
  .addHelpText(
    "after",
    "\nExamples:\n  bold-relay member add Tomas --role operator\n  bold-relay member add Pilar --at alder-row=user --invite",
  )
  .action(async (name: string, options: RoleOptions & { invite?: true }, command: Command) => {
    const { client, json, url } = connectionOf(command);
    if (options.invite) {
      const invited = await client.inviteMember({ name, ...bodyOf(options) });
      if (json) return printJson(invited);
      printLine(`${bold(invited.name)}, ${rolesText(invited)}. Invitation, shown only now, valid for 7 days:`);
      return printLine(`  ${url}${invited.invitation.path}`);
    }
    const member = await client.addMember({ name, ...bodyOf(options) });
    if (json) return printJson(member);
    printLine(`${bold(member.name)}, ${rolesText(member)}. Password, shown only now: ${bold(member.password)}`);
  });

memberCommand
  .command("roles <name>")
  .description("replace the roles of a member")
  .addOption(roleOption())
  .addOption(atOption())
  .action(async (name: string, options: RoleOptions, command: Command) => {
    const { client } = connectionOf(command);
    await client.setRoles(name, bodyOf(options));
    const member = (await client.members()).find((one) => one.name.toLowerCase() === name.toLowerCase());
    if (member) printLine(`${bold(member.name)} is ${rolesText(member)} now.`);
  });

memberCommand
  .command("delete <name>")
  .description("delete a member: sessions, keys and live connections end at once")
  .option("--revoke-inlet-keys", "revoke the keys of inlets that the member has created, too")
  .action(async (name: string, { revokeInletKeys }: { revokeInletKeys?: true }, command: Command) => {
    const { client, json } = connectionOf(command);
    const theirs = (await client.keys()).filter((key) => key.inlet !== null && isCreator(key, name));
    await client.removeMember(name, revokeInletKeys ? "revoke" : "keep");
    if (json) return printJson({ name, [revokeInletKeys ? "revokedKeys" : "keptKeys"]: theirs });
    printLine(`${bold(name)} is deleted, with all sessions and keys.`);
    if (theirs.length === 0) return;
    printLine(
      revokeInletKeys ? "Revoked too, the keys of inlets that they had created:" : "Still valid, created by them:",
    );
    for (const key of theirs) printLine(`  ${key.id}  ${bold(key.name)}, of inlet ${key.inlet}`);
    if (!revokeInletKeys) printLine(faint("Revoke one with: bold-relay key revoke <id>"));
  });

memberCommand
  .command("reset <name>")
  .description("create a one-time link with which a member sets a new password; it expires after 24 hours")
  .action(async (name: string, _options, command: Command) => {
    const { client, json, url } = connectionOf(command);
    const { path, expiresAt } = await client.resetMember(name);
    if (json) return printJson({ name, url: `${url}${path}`, expiresAt });
    printLine(`${url}${path}`);
    printLine(faint("Sessions and keys of the member end when the link is used. It is shown only now."));
  });

memberCommand
  .command("second-factor")
  .description("show or set the roles that need a second factor")
  .addOption(new Option("--for <role...>", "these roles and no others").choices([...ROLES]))
  .option("--none", "no role")
  .action(async (options: { for?: Role[]; none?: boolean }, command: Command) => {
    const { client, json } = connectionOf(command);
    const change = options.none ? [] : options.for;
    const rules =
      change === undefined ? await client.teamRules() : await client.saveTeamRules({ secondFactorFor: change });
    if (json) return printJson(rules);
    const roles = rules.secondFactorFor;
    printLine(
      roles.length === 0 ? "No role needs a second factor." : `A second factor is required for: ${roles.join(", ")}.`,
    );
  });

memberCommand.addHelpText(
  "after",
  "\nExamples:\n  bold-relay member\n  bold-relay member add Pilar --at alder-row=user\n  bold-relay member delete Pilar",
);

export const keyCommand = new Command("key").description("keys: your own, and those of inlets");

keyCommand
  .command("list", { isDefault: true })
  .description("list valid keys, without the keys themselves")
  .action(async (_options, command: Command) => {
    const { client, json } = connectionOf(command);
    const keys = await client.keys();
    if (json) for (const key of keys) printJson(key);
    else {
      const rows = keys.map((key) => [
        String(key.id),
        bold(key.name),
        key.member ?? `inlet ${key.inlet}`,
        key.most ?? faint("as holder"),
        key.sites?.join(", ") ?? faint("as holder"),
        key.exports ? "yes" : faint("no"),
        creatorText(key),
        when.date(key.createdAt),
        key.expiresAt === null ? faint("never") : when.date(key.expiresAt),
      ]);
      printLine(
        table(["id", "name", "of", "at most", "sites", "exports", "created by", "created", "expires"], rows, [0]),
      );
    }
  });

interface KeyOptions extends Pick<NewKeyBody, "inlet" | "most" | "exports"> {
  readonly site?: readonly string[];
  readonly days?: number | null;
  readonly overlap?: number;
  readonly out?: string;
}

keyCommand
  .command("add <name>")
  .description("create a key, or replace the one with this name; it is printed once")
  .option("--inlet <slug>", "a key of this inlet instead of your own")
  .addOption(new Option("--most <role>", "highest role of the key").choices([...ROLES]))
  .addOption(
    new Option("--site <identifier>", "only this site; may be repeated").argParser(
      (slug: string, before: readonly string[] = []) => [...before, slug],
    ),
  )
  .addOption(new Option("--days <n>", "days until it expires, or never (default: 90)").argParser(daysOrNever))
  .addOption(new Option("--overlap <h>", "hours until the earlier key expires").argParser(wholeNumber))
  .option("--exports", "it may export the request log")
  .addOption(outOption("the key"))
  .action(async (name: string, { inlet, most, site, days, overlap, exports, out }: KeyOptions, command: Command) => {
    const { client, json } = connectionOf(command);
    const body: NewKeyBody = { name };
    if (inlet !== undefined) body.inlet = inlet;
    if (most !== undefined) body.most = most;
    if (site !== undefined) body.sites = [...site];
    if (days !== undefined) body.expiresInDays = days;
    if (overlap !== undefined) body.overlapHours = overlap;
    if (exports === true) body.exports = true;
    const made = await client.addKey(body);
    const about = `Key ${bold(made.name)} of ${made.holder}, ${limitsText(made)}.`;
    if (out !== undefined) {
      await writeSecret(out, `${made.key}\n`);
      if (json) return printJson({ ...made, key: null, file: out });
      return printLine(`${about} It is in ${out}.`);
    }
    if (json) return printJson(made);
    printLine(`${about} It is shown only now:`);
    printLine(made.key);
  });

keyCommand
  .command("revoke <id>")
  .description("revoke a key at once")
  .action(async (id: string, _options, command: Command) => {
    await connectionOf(command).client.revokeKey(wholeNumber(id));
    printLine(`Key ${id} is revoked.`);
  });

keyCommand.addHelpText(
  "after",
  "\nExamples:\n  bold-relay key\n  bold-relay key add wall-panel --most user --days 90\n  bold-relay key add tablet --inlet hall-tablet --overlap 24 --out tablet.key\n  bold-relay key revoke 7",
);

/** In one line; all of them are in the JSON. */
const MOST_CHANGES = 4;

export const auditCommand = new Command("audit")
  .description("the audit log: who changed what; the newest entry is the last line")
  .addHelpText(
    "after",
    "\nExamples:\n  bold-relay audit\n  bold-relay audit --json | jq -c 'select(.actor == \"Ines\")'",
  )
  .action(async (_options, command: Command) => {
    const { client, json } = connectionOf(command);
    const entries = (await client.audit()).entries.reverse();
    if (json) return entries.forEach(printJson);
    const rows = entries.map(({ at, actor, action, object, before, after }) => {
      const what = `${actor} ${auditWords(action)} ${bold(object)}`;
      return [when.clock(at), what, faint(changesText(auditChanges(before, after)))];
    });
    printLine(rows.length === 0 ? "No changes yet." : table(["time", "what", "change"], rows));
  });

/** "role: user → operator, sites: nothing → row" */
function changesText(changes: readonly AuditChange[]): string {
  const shown = changes
    .slice(0, MOST_CHANGES)
    .map(({ place, from, to }) => `${place}: ${from ?? "nothing"} → ${to ?? "nothing"}`);
  const more = changes.length > shown.length ? [`and ${changes.length - shown.length} more`] : [];
  return [...shown, ...more].join(", ");
}

function bodyOf({ role, at }: RoleOptions): MemberBody {
  return { ...(role === undefined ? {} : { role }), ...(at === undefined ? {} : { sites: [...at] }) };
}

/** "operator", or "user at alder-row, operator at glasshouse" */
function rolesText({ role, sites }: Pick<MemberView, "role" | "sites">): string {
  const all = [...(role === null ? [] : [role]), ...sites.map((one) => `${one.role} at ${one.site}`)];
  return all.length === 0 ? "without a role" : all.join(", ");
}

function isCreator({ createdBy, creatorIsGone }: KeyView, name: string): boolean {
  return !creatorIsGone && createdBy?.toLowerCase() === name.toLowerCase();
}

/** "Rui", or "Rui, deleted" */
function creatorText({ createdBy, creatorIsGone }: KeyView): string {
  if (createdBy === null) return faint("not known");
  return creatorIsGone ? `${createdBy}, deleted` : createdBy;
}

function siteRole(text: string): { site: string; role: Exclude<Role, "owner"> } {
  const [site = "", role = ""] = text.split("=");
  if (site === "" || !["reader", "user", "operator", "engineer"].includes(role))
    throw new InvalidArgumentError("Like alder-row=operator; roles at a site are reader, user, operator and engineer.");
  return { site, role: role as Exclude<Role, "owner"> };
}

/** "at most user, at alder-row, expires 25/02/2027" */
function limitsText({ most, sites, exports, expiresAt }: NewKeyView): string {
  const parts = [
    ...(most === null ? [] : [`at most ${most}`]),
    ...(sites === null ? [] : [`at ${sites.join(", ")}`]),
    ...(exports ? ["may export the request log"] : []),
    expiresAt === null ? "never expires" : `expires ${when.date(expiresAt)}`,
  ];
  return parts.join(", ");
}

function daysOrNever(text: string): number | null {
  return text === "never" ? null : wholeNumber(text);
}

function wholeNumber(text: string): number {
  const number = Number(text);
  if (!Number.isInteger(number) || number < 0) throw new InvalidArgumentError("A whole number.");
  return number;
}
