/**
 * The link that leads from an empty installation to its first owner. Whoever can read the service's output, or run its server
 * program, has the machine anyway; nobody else learns the link. It ends with the first owner.
 */

import type { Pool } from "../store/pool.ts";
import { saveSetupLink } from "../store/setup-links.ts";
import { countOwners } from "../store/team.ts";
import { newSessionToken, sha256 } from "./token.ts";

/** How long a link is valid, ms. */
const LIVES_MS = 24 * 3_600_000;

/**
 * Makes a link, unless there is an owner.
 *
 * @param url where browsers reach the console
 * @returns the link; null when there is an owner
 */
export async function newSetupLink(pool: Pool, url: string): Promise<string | null> {
  if ((await countOwners(pool)) > 0) return null;
  const token = newSessionToken();
  await saveSetupLink(pool, sha256(token), LIVES_MS);
  // Behind the "#": browsers send that part to nobody, so no log of a proxy has it.
  return `${url}/setup#${token}`;
}
