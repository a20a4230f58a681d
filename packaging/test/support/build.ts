/** Builds the packages once for all tests. */
import { execFileSync } from "node:child_process";
import { mkdtempSync, rmSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import type { TestProject } from "vitest/node";

declare module "vitest" {
  export interface ProvidedContext {
    /** Folder with the archive and the Debian package. */
    packages: string;
  }
}

export default function setup(project: TestProject): () => void {
  const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-built-"));
  execFileSync(process.execPath, ["packaging/build.mjs", "--out", folder], { stdio: "inherit" });
  project.provide("packages", folder);
  return () => rmSync(folder, { recursive: true, force: true });
}
