/** Which version this is, and what it was built from. */
import { readFileSync } from "node:fs";
import { VERSION } from "@bold-relay/api";

/** Written by `npm run package`: the commit that the package was built from. */
const BUILD_FILE = new URL("../../build.txt", import.meta.url);

function readBuild(): string | null {
  try {
    return readFileSync(BUILD_FILE, "utf8").trim();
  } catch {
    return null;
  }
}

/** The first letters of the commit; null in a clone, where it changes all the time. */
export const BUILD = readBuild();

/** @example "0.2.0 (build 1f2e3d4)" */
export const versionText = BUILD === null ? VERSION : `${VERSION} (build ${BUILD})`;

/** The answer to whether the process is alive. */
export const liveView = { alive: true, version: VERSION, build: BUILD } as const;
