/** Descriptions of any kind through the client: saved, deleted, and brought back. */
import type { InletDescription, NotificationDescription, Profile, SiteDescription } from "@bold-relay/core";
import type { Client } from "./client.ts";
import type { DescriptionKind, VersionRecordView } from "./device-view.ts";

export type Description = SiteDescription | Profile | InletDescription | NotificationDescription;

/**
 * @param version that it was changed from; 0: it must be new, null: whatever it is
 * @returns the version that it is now
 * @throws ProblemError changed-meanwhile, and what the service finds wrong with it
 */
export async function saveDescription(
  client: Client,
  kind: DescriptionKind,
  description: Description,
  version: number | null,
): Promise<number> {
  if (kind === "profile") return (await client.saveProfile(description as Profile, version)).version;
  if (kind === "site") return (await client.saveSite(description as SiteDescription, version)).version;
  if (kind === "inlet") return (await client.saveInlet(description as InletDescription, version)).version;
  return (await client.saveNotification(description as NotificationDescription, version)).version;
}

/** @param version that was looked at; null: whatever it is */
export async function deleteDescription(
  client: Client,
  kind: DescriptionKind,
  slug: string,
  version: number | null,
): Promise<void> {
  if (kind === "profile") await client.deleteProfile(slug, version);
  else if (kind === "site") await client.deleteSite(slug, version);
  else if (kind === "inlet") await client.removeInlet(slug, version);
  else await client.removeNotification(slug, version);
}

/**
 * The version that undoing the last change brings back: the one before the version that is in effect; of a description that is deleted
 * the last one. null: there is none.
 */
export function versionBefore(versions: readonly VersionRecordView[]): VersionRecordView | null {
  const now = versions.findIndex(({ current }) => current);
  return versions[now + 1] ?? null;
}

/**
 * Saves an earlier version again. It becomes a new version, so that this can be undone too.
 *
 * @returns the version that it is now
 * @throws ProblemError like `saveDescription`
 */
export async function restoreVersion(
  client: Client,
  kind: DescriptionKind,
  slug: string,
  version: number,
): Promise<number> {
  const { description, current } = await client.version(kind, slug, version);
  return saveDescription(client, kind, description, current);
}
