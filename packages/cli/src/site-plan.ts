/** What a change of a site changes, and what is wrong or doubtful about it, as lines. */
import type { SitePlanView } from "@bold-relay/api";
import { counted, type Finding, reachLines, type SiteChange } from "@bold-relay/core";
import { bold, faint, printLine, wrong } from "./output.ts";

export function printPlan(
  name: string,
  { changes, findings, reach, version }: SitePlanView,
  tense: "would" | "did",
): void {
  const against = version === 0 ? "a new site" : `version ${version}`;
  if (tense === "would") printLine(`${bold(name)}, compared with ${against}:`);
  if (changes.length === 0) printLine("  nothing changes");
  for (const change of changes) for (const line of changeLines(change)) printLine(line);
  for (const line of reach.flatMap(reachLines)) printLine(`  → ${line}`);
  for (const finding of findings) printLine(findingLine(finding));
  const wrongs = findings.filter(({ level }) => level === "wrong").length;
  if (tense === "did") printLine(`${bold(name)}: version ${version} is in effect.`);
  else if (wrongs > 0) printLine(wrong(`It cannot be loaded: ${counted(wrongs, "error")}.`));
}

function changeLines({ what, name, change, fields }: SiteChange): string[] {
  const sign = { added: "+", removed: "-", changed: "~" }[change];
  const head = `  ${sign} ${what} ${bold(name)}`;
  const shown = (value: unknown) => (value === null ? "none" : JSON.stringify(value));
  return [head, ...fields.map(({ field, from, to }) => faint(`      ${field}: ${shown(from)} → ${shown(to)}`))];
}

export function findingLine({ level, at, text }: Finding): string {
  return level === "wrong" ? `  ${wrong("✗")} ${at} ${text}` : `  ? ${at} ${text}`;
}
