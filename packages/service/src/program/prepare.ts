/** `bold-relay-server prepare`: what an archive needs before its first start. The work is done by deploy/prepare.mjs, as in the package. */
import { spawn } from "node:child_process";
import { once } from "node:events";
import { fileURLToPath } from "node:url";

const SCRIPT = fileURLToPath(new URL("../../../../deploy/prepare.mjs", import.meta.url));

/** @returns the exit code: 0 done, 1 the database is missing, 2 misuse */
export async function prepare(
  folder: string,
  { host = [], database }: { readonly host?: readonly string[]; readonly database?: string },
): Promise<number> {
  const words = [
    folder,
    ...host.flatMap((name) => ["--host", name]),
    ...(database === undefined ? [] : ["--database", database]),
  ];
  const child = spawn(process.execPath, [SCRIPT, ...words], { stdio: "inherit" });
  const [code] = (await once(child, "exit")) as [number | null];
  return code ?? 1;
}
