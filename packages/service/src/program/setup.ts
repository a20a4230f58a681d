/** `setup`: what an empty installation needs before somebody can sign in: a link for the browser, or everything from a file. */

import { shippedProfiles } from "@bold-relay/core";
import { newSetupLink } from "../auth/setup-link.ts";
import { migrate } from "../store/migrate.ts";
import { addProfiles } from "../store/model.ts";
import { findTeam } from "../store/team.ts";
import { withDatabase } from "./database.ts";

/**
 * Prepares the database and makes a one-time link to the first owner's password.
 *
 * @param url where browsers reach the console
 * @returns lines for people
 */
export function setup(databaseUrl: string, url: string): Promise<string[]> {
  return withDatabase(databaseUrl, async (pool) => {
    await migrate(pool);
    await addProfiles(pool, shippedProfiles);
    const link = await newSetupLink(pool, url);
    if (link !== null) return ["Open this link in a browser. It works once, for 24 hours.", "", `  ${link}`];
    const owners = (await findTeam(pool)).filter(({ standing }) => standing.team === "owner").map(({ name }) => name);
    return [
      `This installation has an owner: ${owners.join(", ")}. Sign in at ${url}.`,
      `Nobody can sign in? Run: bold-relay-server owner "${owners[0]}"`,
    ];
  });
}
