/** `export`: everything that describes an installation in one archive, without secrets, while the service runs. */

import { VERSION } from "@bold-relay/api";
import { counted } from "@bold-relay/core";
import { findInletRows } from "../store/inlets.ts";
import { findProfiles, findSite, findSites } from "../store/model.ts";
import { findNotifications } from "../store/notifications.ts";
import { inTransaction } from "../store/pool.ts";
import { findTeam } from "../store/team.ts";
import { withDatabase } from "./database.ts";
import { FORMAT, type InstallationArchive, writeArchive } from "./installation-archive.ts";
import { newFile } from "./new-file.ts";

/**
 * @returns lines for people
 * @throws Error when the file exists, or cannot be written whole; nothing is left then
 */
export async function exportInstallation(databaseUrl: string, file: string): Promise<string[]> {
  const archive = await withDatabase(databaseUrl, (pool) =>
    // One picture: what is saved meanwhile is in it or not, and never half.
    inTransaction(pool, async (db) => {
      await db.query("set transaction isolation level repeatable read, read only");
      return archiveOf(db);
    }),
  );
  await newFile(file, (part) => writeArchive(part, archive));
  const count = (folder: string) => archive.descriptions.filter((one) => one.folder === folder).length;
  const kinds = ["site", "profile", "inlet", "notification"].map((kind) => counted(count(`${kind}s`), kind));
  const members = archive.members as readonly unknown[];
  return [
    `The export is in ${file}: ${[...kinds, counted(members.length, "member")].join(", ")}.`,
    "It holds no passwords, keys, PINs, signing secrets or broker users, and no history. For all of these make a backup.",
  ];
}

async function archiveOf(db: Parameters<typeof findSites>[0]): Promise<InstallationArchive> {
  const described = (folder: InstallationArchive["descriptions"][number]["folder"]) => (body: { slug: string }) => ({
    folder,
    file: `${body.slug}.yaml`,
    body,
  });
  const profiles = [...(await findProfiles(db)).values()].map(({ profile }) => profile);
  const sites = [];
  for (const { slug } of await findSites(db)) {
    const found = await findSite(db, slug);
    if (found) sites.push(found.site);
  }
  const inlets = (await findInletRows(db)).map(({ inlet: { settings, ...inlet } }) => {
    const { pinHash: _, ...shown } = settings ?? {};
    return { ...inlet, ...(Object.keys(shown).length > 0 ? { settings: shown } : {}) };
  });
  const notifications = (await findNotifications(db)).map(({ notification }) => notification);
  const members = (await findTeam(db)).map(({ name, standing: { team, sites: at } }) => ({
    name,
    ...(team === null ? {} : { role: team }),
    ...(Object.keys(at).length === 0 ? {} : { sites: at }),
  }));
  return {
    about: { format: FORMAT, version: VERSION, exportedAt: new Date().toISOString() },
    descriptions: [
      ...profiles.map(described("profiles")),
      ...sites.map(described("sites")),
      ...inlets.map(described("inlets")),
      ...notifications.map(described("notifications")),
    ],
    members,
  };
}
