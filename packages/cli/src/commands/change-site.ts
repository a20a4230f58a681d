/** One part of a site is changed: what every verb that does so shares. */
import type { SiteEdit } from "@bold-relay/core";
import { type Command, Option } from "commander";
import { connectionOf } from "../connection.ts";
import { EXIT } from "../exit.ts";
import { printJson } from "../output.ts";
import { printPlan } from "../site-plan.ts";

export interface ChangeOptions {
  readonly preview?: true;
}

export function previewOption(): Option {
  return new Option("--preview", "show what would change; change nothing");
}

/** Changes it, or says what would change, and prints that. */
export async function changeSite(
  command: Command,
  site: string,
  edit: SiteEdit,
  { preview = false }: { preview?: boolean },
): Promise<void> {
  const { client, json } = connectionOf(command);
  const plan = await client.changeSite(site, edit, null, preview);
  if (json) printJson(plan);
  else printPlan(site, plan, preview ? "would" : "did");
  if (plan.findings.some(({ level }) => level === "wrong")) process.exitCode = EXIT.notReached;
}
