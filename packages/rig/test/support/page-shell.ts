/** Runs the shell blocks of a page, in order and in one shell, in a folder that looks like the clone of a newcomer. */
import { spawn } from "node:child_process";
import { once } from "node:events";
import { chmodSync, mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { inject } from "vitest";
import type { Block } from "./document.ts";

const ROOT = fileURLToPath(new URL("../../../../", import.meta.url));
const WITHIN_MS = 120_000;

export interface Places {
  /** The folder of the running demo. */
  readonly demo: string;
  /** What stands in pages → where the demo of the test has it. */
  readonly addresses: Readonly<Record<string, string>>;
}

export interface PageRun {
  readonly output: readonly string[];
  /** What went wrong; null: every block ended with 0. */
  readonly trouble: string | null;
}

/** @param blocks those that are run */
export async function runBlocks(blocks: readonly Block[], { demo, addresses }: Places): Promise<PageRun> {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-page-"));
  try {
    dress(folder, demo);
    const script = blocks.map((block, index) => `${scriptOf(block)}\nprintf '\\n@@%s@@\\n' ${index}`).join("\n");
    const placed = replaceAll(script, addresses);
    const { code, said } = await runScript(folder, `set -e\nexec 2>&1\n${placed}\n`);
    const backwards = Object.fromEntries(Object.entries(addresses).map(([written, real]) => [real, written]));
    const output = replaceAll(said, backwards)
      .split(/\n@@\d+@@\n/)
      .map((text) => text.trim());
    const failed = blocks[output.length - 1];
    const trouble = code === 0 ? null : `${failed?.place} ended with ${code}:\n${failed?.text}\n--\n${output.at(-1)}`;
    return { output, trouble };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

function scriptOf({ about, text }: Block): string {
  return about === "fails" ? `if\n${text}\nthen echo 'it was to fail'; exit 1; fi` : text;
}

/** Programs as they stand in pages, without the time that npm and npx take. */
function dress(folder: string, demo: string): void {
  symlinkSync(demo, path.join(folder, ".demo"));
  for (const name of ["examples", "packages", "node_modules", "deploy"])
    symlinkSync(path.join(ROOT, name), path.join(folder, name));
  const bin = path.join(folder, ".bin");
  mkdirSync(bin);
  const program = (name: string, script: string) => {
    writeFileSync(path.join(bin, name), `#!/bin/sh\n${script}\n`);
    chmodSync(path.join(bin, name), 0o755);
  };
  const node = process.execPath;
  program("bold-relay", `exec "${node}" "${inject("cliProgram")}" "$@"`);
  program("bold-relay-translate", `exec "${node}" "${ROOT}packages/translators/bin/bold-relay-translate.js" "$@"`);
  program("npx", 'exec "$@"');
  program(
    "npm",
    [
      `[ "$*" = "run -s attack" ] && exec "${node}" "${ROOT}packages/soak/src/attack/main.ts"`,
      '[ "$1 $2 $3" = "run standin --" ] || { echo "npm $* is not for a test"; exit 1; }',
      "shift 3",
      `exec "${node}" "${ROOT}packages/standins/src/control-cli.ts" "$@"`,
    ].join("\n"),
  );
}

async function runScript(folder: string, script: string): Promise<{ code: number | string; said: string }> {
  // A group of its own: what a page leaves running in the background ends with it.
  const child = spawn("sh", ["-c", script], {
    cwd: folder,
    detached: true,
    env: {
      ...process.env,
      PATH: `${folder}/.bin:/usr/bin:${process.env.PATH}`,
      HOME: folder,
      NO_COLOR: "1",
      TZ: "UTC",
    },
    stdio: ["ignore", "pipe", "pipe"],
  });
  const endGroup = () => {
    try {
      process.kill(-(child.pid ?? 0), "SIGKILL");
    } catch {
      // Nothing of it runs any more.
    }
  };
  let said = "";
  for (const stream of [child.stdout, child.stderr]) stream.on("data", (piece) => (said += String(piece)));
  const tooLong = setTimeout(endGroup, WITHIN_MS);
  const [code, signal] = await once(child, "exit");
  clearTimeout(tooLong);
  // The output may be held open by what runs in the background.
  endGroup();
  await Promise.all([child.stdout, child.stderr].map((stream) => (stream.closed ? null : once(stream, "close"))));
  return { code: code ?? signal, said };
}

function replaceAll(text: string, pairs: Readonly<Record<string, string>>): string {
  return Object.entries(pairs).reduce((so, [from, to]) => so.replaceAll(from, to), text);
}

/** Whether a block printed what its page shows. Times, ids and keys are anybody's; `…` is anything. */
export function printed(output: string, shown: string): boolean {
  const escaped = plain(shown)
    .split("…")
    .map((piece) => piece.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"))
    .join("[\\s\\S]*?");
  return new RegExp(`^${escaped}$`).test(plain(output));
}

function plain(text: string): string {
  return text
    .trim()
    .replace(/[ \t]+$/gm, "")
    .replace(/[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}/g, "ID")
    .replace(/\bbrk_[\w-]+|\bwhsec_[\w+/=]+/g, "KEY")
    .replace(/\d+(\.\d+)? (ms|s|min|h)\b/g, "TIME")
    .replace(/\d{4}-\d\d-\d\dT[\d:.]+Z?/g, "AT");
}
