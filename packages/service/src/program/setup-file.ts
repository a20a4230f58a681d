/**
 * `setup --from FILE`: an installation without hands. Profiles and sites from files, an owner, keys and web inlets; all in one
 * transaction. What is there already stays, unless new secrets are asked for.
 */
import { readFile } from "node:fs/promises";
import path from "node:path";
import { profileSchema, type SetupFile, setupFileSchema, siteSchema } from "@bold-relay/api/schema";
import { shippedProfiles } from "@bold-relay/core";
import type { ObjectSchema } from "joi";
import { parse } from "yaml";
import { SERVER_PROGRAM } from "../auth/audit-log.ts";
import { newKey, sha256 } from "../auth/token.ts";
import { insertAudit } from "../store/audit.ts";
import { findInlets, findMember, saveInlet } from "../store/identities.ts";
import { findKeys, saveKey } from "../store/keys.ts";
import { migrate } from "../store/migrate.ts";
import { addProfiles, findSite, saveProfile, saveSite } from "../store/model.ts";
import { type Db, inTransaction } from "../store/pool.ts";
import { withDatabase } from "./database.ts";
import { type NewOwner, saveOwner } from "./owner.ts";

/** Secrets that were made now. They are shown once. */
export interface SetUp {
  readonly owner: NewOwner | null;
  readonly keys: readonly { readonly member: string; readonly name: string; readonly key: string }[];
  readonly inlets: readonly { readonly slug: string; readonly key: string }[];
}

/**
 * @param newSecrets gives a new password and new keys also where there are some
 * @throws Error that names the file and what is wrong with it; nothing is changed then
 */
export async function setupFrom(databaseUrl: string, file: string, newSecrets: boolean): Promise<SetUp> {
  const plan = await readChecked(file, setupFileSchema);
  const beside = (one: string) => path.resolve(path.dirname(file), one);
  const profiles = await Promise.all(plan.profiles.map((one) => readChecked(beside(one), profileSchema)));
  const sites = await Promise.all(plan.sites.map((one) => readChecked(beside(one), siteSchema)));
  return withDatabase(databaseUrl, async (pool) => {
    await migrate(pool);
    return inTransaction(pool, async (db) => {
      await addProfiles(db, shippedProfiles);
      for (const profile of profiles) {
        await saveProfile(db, profile, SERVER_PROGRAM.name);
        await note(db, "profile changed", profile.slug);
      }
      for (const site of sites) {
        if ((await findSite(db, site.slug)) !== null) continue;
        await saveSite(db, site, SERVER_PROGRAM.name);
        await note(db, "site changed", site.slug);
      }
      const owner = plan.owner === null ? null : await ownerOf(db, plan.owner, newSecrets);
      return { owner, keys: await keysOf(db, plan, newSecrets), inlets: await inletsOf(db, plan, newSecrets) };
    });
  });
}

async function ownerOf(db: Db, name: string, newSecrets: boolean): Promise<NewOwner | null> {
  return newSecrets || (await findMember(db, name)) === null ? saveOwner(db, name) : null;
}

async function keysOf(db: Db, { keys }: SetupFile, newSecrets: boolean): Promise<SetUp["keys"]> {
  const there = await findKeys(db);
  const made = [];
  for (const { member, name } of keys) {
    const found = await findMember(db, member);
    if (!found) throw new Error(`keys: there is no member “${member}”.`);
    if (!newSecrets && there.some((one) => one.memberId === found.id && one.name === name)) continue;
    const key = newKey();
    await saveKey(db, { name, tokenSha256: sha256(key), memberId: found.id });
    await note(db, "key created", `${name}, of ${found.name}`);
    made.push({ member: found.name, name, key });
  }
  return made;
}

async function inletsOf(db: Db, { inlets }: SetupFile, newSecrets: boolean): Promise<SetUp["inlets"]> {
  const there = new Set((await findInlets(db)).map(({ slug }) => slug));
  const made = [];
  for (const inlet of inlets) {
    if (!newSecrets && there.has(inlet.slug)) continue;
    const inletId = await saveInlet(db, inlet);
    const key = newKey();
    await saveKey(db, { name: "inlet key", tokenSha256: sha256(key), inletId });
    await note(db, "inlet changed", inlet.slug);
    made.push({ slug: inlet.slug, key });
  }
  return made;
}

function note(db: Db, action: string, object: string): Promise<void> {
  return insertAudit(db, { actor: SERVER_PROGRAM, action, object, before: null, after: null });
}

/** @throws Error that names the file */
async function readChecked<Value>(file: string, schema: ObjectSchema<Value>): Promise<Value> {
  const content: unknown = await readFile(file, "utf8")
    .then(parse)
    .catch((error: Error) => {
      throw new Error(`${file}: ${error.message}`, { cause: error });
    });
  const { value, error } = schema.validate(content, { abortEarly: false });
  if (error) throw new Error(`${file}: ${error.details.map((one) => one.message).join("; ")}`);
  return value;
}
