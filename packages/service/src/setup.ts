/**
 * The set-up program, for whoever has the database: loads profiles and sites, makes the owner, inlets and keys.
 * Secrets are printed once and never again.
 */
import { randomBytes } from "node:crypto";
import { readFile } from "node:fs/promises";
import { profileSchema, siteSchema } from "@bold-relay/api/schema";
import { type SiteDescription, shippedProfiles } from "@bold-relay/core";
import { Command } from "commander";
import type { ObjectSchema } from "joi";
import { SET_UP_PROGRAM } from "./auth/audit-log.ts";
import { hashPassword } from "./auth/password.ts";
import { newKey, sha256 } from "./auth/token.ts";
import { dropSecondFactor, endEverythingOf } from "./store/accounts.ts";
import { insertAudit } from "./store/audit.ts";
import { findMember, saveInlet, saveMember } from "./store/identities.ts";
import { saveKey } from "./store/keys.ts";
import { migrate } from "./store/migrate.ts";
import { addProfiles, findSite, saveProfile, saveSite } from "./store/model.ts";
import { createPool, inTransaction, type Pool } from "./store/pool.ts";

const program = new Command("bold-relay-setup")
  .description("Sets up the database of a Bold Relay service. It is found by BOLD_RELAY_DATABASE_URL.")
  .addHelpText(
    "after",
    "\nA running service takes on new sites after a restart; bold-relay site load does it while it runs.",
  );

verb("profile <file>", "load a device profile from a JSON file", async (pool, file: string) => {
  const profile = await readChecked(file, profileSchema);
  await saveProfile(pool, profile);
  await noteChange(pool, "profile loaded", profile.slug);
  return { profile: profile.slug };
});

verb(
  "first-site <file>",
  "load a site from a JSON file, unless there is one of this slug",
  async (pool, file: string) => {
    const site = await readChecked(file, siteSchema);
    if ((await findSite(pool, site.slug)) !== null) return { site: site.slug, there: "already" };
    await inTransaction(pool, (db) => saveSite(db, site));
    await noteChange(pool, "site loaded", site.slug);
    return { site: site.slug };
  },
);

verb("site <file>", "load a site from a JSON file, or replace the one of the same slug", async (pool, file: string) => {
  return loadSite(pool, await readChecked(file, siteSchema));
});

const OWNER = "make an owner, or give one a new password, printed once; their sessions, keys and second factor end";

verb("owner <name>", OWNER, async (pool, name: string) => {
  const password = randomBytes(12).toString("base64url");
  const id = await saveMember(pool, name, await hashPassword(password), "owner");
  await endEverythingOf(pool, id, null);
  await dropSecondFactor(pool, id);
  await noteChange(pool, "owner made, or given a new password", name);
  return { owner: name, password };
});

verb(
  "key <member> <name>",
  "make a key for a member, replacing the one of the same name",
  async (pool, member: string, name: string) => {
    const found = await findMember(pool, member);
    if (!found) throw new Error(`There is no member “${member}”.`);
    const key = newKey();
    await saveKey(pool, { name, tokenSha256: sha256(key), memberId: found.id });
    await noteChange(pool, "key made", `${name}, of ${found.name}`);
    return { member: found.name, key };
  },
);

program
  .command("inlet <slug>")
  .description("make a web inlet with a key of its own, or give one a new key")
  .requiredOption("--name <name>", "shown as the asker where the sender gives no name")
  .option("--site <slug>", "only channels of this site may be asked for")
  .action((slug: string, { name, site }: { name: string; site?: string }) =>
    run(async (pool) => {
      const inletId = await saveInlet(pool, { slug, name, site: site ?? null });
      const key = newKey();
      await saveKey(pool, { name: "inlet key", tokenSha256: sha256(key), inletId });
      await noteChange(pool, "inlet made, or given a new key", slug);
      return { inlet: slug, key };
    }),
  );

async function loadSite(pool: Pool, site: SiteDescription): Promise<object> {
  await inTransaction(pool, (db) => saveSite(db, site));
  await noteChange(pool, "site loaded", site.slug);
  return { site: site.slug };
}

/** Whoever has the database may do everything; the audit has it all the same. */
function noteChange(pool: Pool, action: string, object: string): Promise<void> {
  return insertAudit(pool, { actor: SET_UP_PROGRAM, action, object, before: null, after: null });
}

/** A command whose arguments are all texts. */
function verb(usage: string, about: string, work: (pool: Pool, ...words: string[]) => Promise<object>): void {
  const command = program.command(usage).description(about);
  command.action(() => run((pool) => work(pool, ...command.args)));
}

async function run(work: (pool: Pool) => Promise<object>): Promise<void> {
  const databaseUrl = process.env.BOLD_RELAY_DATABASE_URL;
  if (!databaseUrl) throw new Error("Set BOLD_RELAY_DATABASE_URL to the service's database.");
  const pool = createPool(databaseUrl, () => {});
  try {
    await migrate(pool);
    await addProfiles(pool, shippedProfiles);
    process.stdout.write(`${JSON.stringify(await work(pool))}\n`);
  } finally {
    await pool.end();
  }
}

async function readChecked<Value>(file: string, schema: ObjectSchema<Value>): Promise<Value> {
  const text = await readFile(file, "utf8");
  const { value, error } = schema.validate(JSON.parse(text), { abortEarly: false });
  if (error) throw new Error(`${file}: ${error.details.map((one) => one.message).join("; ")}`);
  return value;
}

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
