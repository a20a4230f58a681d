/** What a folder of descriptions would change at a service: compared as data, then asked of the service. */
import type { Client } from "@bold-relay/api";
import { type AuditChange, auditChanges, reachLines, type SiteDescription } from "@bold-relay/core";
import { type DescribedFile, type Installed, installedAt, keyOf, readFolder } from "./description-folder.ts";

export interface PlannedFile {
  readonly file: DescribedFile;
  readonly change: "new" | "changed" | "same";
  /** Of what there is: 0 for something new. */
  readonly version: number;
  readonly changes: readonly AuditChange[];
  /** Which route, inlet or rule would reach which channels no more, or now, in words. */
  readonly reach: readonly string[];
  /** What the service would refuse. */
  readonly errors: readonly string[];
}

export interface FolderPlan {
  readonly files: readonly PlannedFile[];
  /** On the service, and in no file. Profiles that came with the product and that no device uses are left out. */
  readonly others: readonly Installed[];
}

export async function planOf(client: Client, folder: string): Promise<FolderPlan> {
  const [files, installed] = await Promise.all([readFolder(folder), installedAt(client)]);
  const known = new Map(installed.map((one) => [keyOf(one), one]));
  const planned = files.map((file) => compared(file, known.get(keyOf(file)) ?? null));
  const newProfiles = planned.flatMap(({ file, change }) =>
    file.kind === "profile" && change === "new" ? [file.slug] : [],
  );
  const checked: PlannedFile[] = [];
  // One after the other: the service checks few descriptions at once, and refuses more.
  for (const one of planned) checked.push(await withErrors(client, one, newProfiles));
  const described = new Set(files.map(keyOf));
  return { files: checked, others: installed.filter((one) => one.kind !== "profile" && !described.has(keyOf(one))) };
}

function compared(file: DescribedFile, there: Installed | null): PlannedFile {
  const changes = there === null ? [] : auditChanges(there.body, file.body);
  const change = there === null ? "new" : changes.length === 0 ? "same" : "changed";
  return { file, change, version: there?.version ?? 0, changes, reach: [], errors: [] };
}

/** Sites and inlets are checked by the service. That a profile is missing is no error where the folder brings it: profiles go first. */
async function withErrors(client: Client, planned: PlannedFile, newProfiles: readonly string[]): Promise<PlannedFile> {
  if (planned.change === "same") return planned;
  if (planned.file.kind === "inlet") {
    const { reach } = await client.checkDescription("inlet", planned.file.body);
    return { ...planned, reach: reach.flatMap(reachLines) };
  }
  if (planned.file.kind !== "site") return planned;
  const { findings, reach } = await client.checkSite(planned.file.body as SiteDescription);
  const isBrought = (text: string) => newProfiles.some((slug) => text.startsWith(`names the profile “${slug}”`));
  const errors = findings.filter(({ level, text }) => level === "wrong" && !isBrought(text));
  return { ...planned, reach: reach.flatMap(reachLines), errors: errors.map(({ at, text }) => `${at} ${text}`) };
}
