/** Sets up the service's database without a browser: `bold-relay-server setup --from FILE`, one process for all of it. */
import { execFile } from "node:child_process";
import { mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { promisify } from "node:util";

/** The server program, from its sources. */
export const SERVER_PROGRAM = fileURLToPath(new URL("../../service/src/main.ts", import.meta.url));

/** What is to be there; the service's documentation has it at "setup". Files by their absolute paths. */
export interface SetupPlan {
  readonly profiles?: readonly string[];
  readonly sites?: readonly string[];
  readonly owner?: string;
  readonly keys?: readonly { readonly member: string; readonly name: string }[];
  readonly inlets?: readonly { readonly slug: string; readonly name: string; readonly site?: string }[];
}

/** What was made, and is shown only now. */
export interface MadeSecrets {
  readonly owner: { readonly owner: string; readonly password: string } | null;
  readonly keys: readonly { readonly member: string; readonly name: string; readonly key: string }[];
  readonly inlets: readonly { readonly slug: string; readonly key: string }[];
}

/**
 * @param newSecrets makes passwords and keys anew where there are some
 * @param program the server program that does it
 */
export async function setUp(
  databaseUrl: string,
  plan: SetupPlan,
  newSecrets = false,
  program = SERVER_PROGRAM,
): Promise<MadeSecrets> {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-setup-"));
  try {
    const file = path.join(folder, "setup.json");
    writeFileSync(file, JSON.stringify(plan));
    const words = [program, "setup", "--from", file, ...(newSecrets ? ["--new-secrets"] : [])];
    const env = { ...process.env, BOLD_RELAY_DATABASE_URL: databaseUrl };
    const { stdout } = await promisify(execFile)(process.execPath, words, { env });
    return JSON.parse(stdout) as MadeSecrets;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
