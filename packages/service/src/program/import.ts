/** `import`: what an export describes becomes this installation's, all of it or nothing. No instance may run meanwhile. */
import { randomBytes } from "node:crypto";
import {
  inletSchema,
  memberName,
  memberSchema,
  notificationSchema,
  profileSchema,
  siteSchema,
} from "@bold-relay/api/schema";
import {
  auditChanges,
  buildSnapshot,
  checkInlet,
  counted,
  type Finding,
  type InletDescription,
  type NotificationDescription,
  type Profile,
  type Role,
  type SiteDescription,
  shippedProfiles,
} from "@bold-relay/core";
import Joi from "joi";
import { SERVER_PROGRAM } from "../auth/audit-log.ts";
import { hashPassword } from "../auth/password.ts";
import { newSessionToken, sha256 } from "../auth/token.ts";
import { withoutPin, withPinHash } from "../http/routes/inlet-pin.ts";
import { checkSiteChange } from "../model/check-site.ts";
import { limits } from "../platform/config/limits.ts";
import { saveReset } from "../store/accounts.ts";
import { insertAudit } from "../store/audit.ts";
import { findMember, saveMember } from "../store/identities.ts";
import { findInletRows, saveInletBody } from "../store/inlets.ts";
import { findLeader } from "../store/leases.ts";
import { migrate } from "../store/migrate.ts";
import {
  addProfiles,
  findChannels,
  findProfiles,
  findSite,
  findSites,
  savePrepared,
  saveProfile,
} from "../store/model.ts";
import { findNotifications, saveNotification } from "../store/notifications.ts";
import { type Db, inTransaction } from "../store/pool.ts";
import { setStanding } from "../store/team.ts";
import { withDatabase } from "./database.ts";
import { FORMAT, type Folder, type InstallationArchive, readArchive } from "./installation-archive.ts";
import { requireTellable } from "./owner.ts";

export interface ImportOptions {
  /** What is here under the same identifier and is otherwise becomes as the export has it. */
  readonly replace?: boolean;
  /** Where browsers reach the console, for the links of invitations. */
  readonly url: string;
}

interface Member {
  readonly name: string;
  readonly role?: Role;
  readonly sites?: Readonly<Record<string, Role>>;
}

interface Described {
  readonly profiles: readonly Profile[];
  readonly sites: readonly SiteDescription[];
  readonly inlets: readonly InletDescription[];
  readonly notifications: readonly NotificationDescription[];
  readonly members: readonly Member[];
}

/**
 * @returns lines for people, with a link for each new member
 * @throws Error that names the file in the archive and what is wrong with it; nothing is changed then
 */
export async function importInstallation(
  databaseUrl: string,
  file: string,
  { replace = false, url }: ImportOptions,
): Promise<string[]> {
  const described = checkedArchive(await readArchive(file));
  return withDatabase(databaseUrl, async (pool) => {
    await migrate(pool);
    const leader = await findLeader(pool);
    if (leader) throw new Error(`The instance ${leader.name} runs on this database. Stop all instances first.`);
    return inTransaction(pool, async (db) => {
      await addProfiles(db, shippedProfiles);
      const taken = replace ? [] : await differing(db, described);
      if (taken.length > 0)
        throw new Error(
          `This installation has these otherwise: ${taken.slice(0, 10).join(", ")}${taken.length > 10 ? ", …" : ""}. Nothing was imported. To make them as in the export, add --replace.`,
        );
      await saveAll(db, described);
      const links = await addMembers(db, described.members, url);
      const after = {
        profiles: described.profiles.length,
        sites: described.sites.length,
        inlets: described.inlets.length,
      };
      await insertAudit(db, {
        actor: SERVER_PROGRAM,
        action: "installation imported",
        object: file,
        before: null,
        after,
      });
      return [
        `Imported: ${[
          counted(described.sites.length, "site"),
          counted(described.profiles.length, "profile"),
          counted(described.inlets.length, "inlet"),
          counted(described.notifications.length, "notification"),
          counted(links.length, "new member"),
        ].join(", ")}.`,
        ...(links.length > 0
          ? ["Each new member chooses a password by a link, valid for 7 days and shown only now:", ...links]
          : []),
        "Keys of inlets, signing secrets, PINs and broker users of devices are not in an export: create them in the console.",
      ];
    });
  });
}

const SCHEMAS = {
  profiles: profileSchema,
  sites: siteSchema,
  inlets: inletSchema,
  notifications: notificationSchema,
} as const;

const membersSchema = Joi.array<Member[]>()
  .items(
    Joi.object({
      name: memberName.required(),
      role: memberSchema.extract("role"),
      sites: Joi.object().pattern(Joi.string().max(40), Joi.valid("reader", "user", "operator", "engineer")),
    }),
  )
  .max(10_000);

/** @throws Error that names the file */
function checkedArchive({ descriptions, members, about }: InstallationArchive): Described {
  const format = (about as { format?: unknown } | null)?.format;
  if (format !== FORMAT)
    throw new Error(
      `The export has the format ${String(format)}, and this version reads ${FORMAT}. Nothing was imported.`,
    );
  const of = <Body>(folder: Folder) =>
    descriptions
      .filter((one) => one.folder === folder)
      .map(({ file, body }) => checkedBody<Body>(file, SCHEMAS[folder], body));
  return {
    profiles: of<Profile>("profiles"),
    sites: of<SiteDescription>("sites"),
    inlets: of<InletDescription>("inlets"),
    notifications: of<NotificationDescription>("notifications"),
    members: checkedBody<Member[]>("members.yaml", membersSchema, members),
  };
}

function checkedBody<Body>(file: string, schema: Joi.Schema, body: unknown): Body {
  const { value, error } = schema.validate(body, { abortEarly: false });
  if (!error) return value as Body;
  const why = error.details.slice(0, 5).map(({ message }) => message);
  throw new Error(`${file}: ${why.join("; ")}. Nothing was imported.`);
}

/** What is here under the same identifier, and is not the same. */
async function differing(db: Db, described: Described): Promise<string[]> {
  const profiles = await findProfiles(db);
  const inlets = new Map((await findInletRows(db)).map(({ inlet }) => [inlet.slug, withoutPin(inlet)]));
  const notifications = new Map(
    (await findNotifications(db)).map(({ notification }) => [notification.slug, notification]),
  );
  const taken = (what: string, slug: string, here: unknown, there: unknown) =>
    here !== undefined && here !== null && auditChanges(here, there).length > 0 ? [`${what} ${slug}`] : [];
  const sites = [];
  for (const site of described.sites)
    sites.push(...taken("site", site.slug, (await findSite(db, site.slug))?.site, site));
  return [
    ...described.profiles.flatMap((one) => taken("profile", one.slug, profiles.get(one.slug)?.profile, one)),
    ...sites,
    ...described.inlets.flatMap((one) => taken("inlet", one.slug, inlets.get(one.slug), one)),
    ...described.notifications.flatMap((one) => taken("notification", one.slug, notifications.get(one.slug), one)),
  ];
}

/** Whoever has the machine may change everything. */
const NO_CHECK = { stored() {}, wanted() {} };

async function saveAll(db: Db, { profiles, sites, inlets, notifications }: Described): Promise<void> {
  const by = SERVER_PROGRAM.name;
  for (const profile of profiles) await saveProfile(db, profile, by);
  for (const site of sites) {
    const { plan, prepared } = await checkSiteChange(
      db,
      site.slug,
      { text: JSON.stringify(site) },
      { reserved: [], reach: null },
    );
    refuseWrong(`sites/${site.slug}.yaml`, plan.findings);
    await savePrepared(db, prepared, by, null);
  }
  const known = new Map((await findInletRows(db)).map(({ inlet }) => [inlet.slug, inlet]));
  const snapshot = buildSnapshot(await findChannels(db), await findSites(db));
  for (const inlet of inlets) {
    refuseWrong(`inlets/${inlet.slug}.yaml`, checkInlet(inlet, snapshot, inlets));
    await saveInletBody(db, await withPinHash(inlet, known.get(inlet.slug)), by, null, NO_CHECK);
  }
  for (const notification of notifications) await saveNotification(db, notification, by, null, NO_CHECK);
}

function refuseWrong(file: string, findings: readonly Finding[]): void {
  const wrong = findings.filter(({ level }) => level === "wrong");
  if (wrong.length === 0) return;
  const shown = wrong.slice(0, 5).map(({ at, text }) => `${at} ${text}`);
  throw new Error(`${file}: ${shown.join(" ")} Nothing was imported.`);
}

/** Who is here stays as they are. @returns a line for each new one */
async function addMembers(db: Db, members: readonly Member[], url: string): Promise<string[]> {
  const links: string[] = [];
  for (const { name, role = null, sites = {} } of members) {
    if (await findMember(db, name)) continue;
    await requireTellable(db, name);
    const id = await saveMember(db, name, await hashPassword(randomBytes(32).toString("base64url")), role);
    const missing = await setStanding(db, id, { team: role, sites });
    if (missing !== null)
      throw new Error(`members.yaml: ${name} has a role at ${missing}, which is no site. Nothing was imported.`);
    const token = newSessionToken();
    await saveReset(db, id, sha256(token), limits.inviteMs);
    links.push(`  ${name}: ${url}/reset#${token}`);
  }
  return links;
}
