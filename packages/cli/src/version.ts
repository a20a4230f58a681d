/** Which version of the command line this is, and what it was built from. */
import { readFileSync } from "node:fs";
import { VERSION } from "@bold-relay/api";

/** Written by `npm run package`, two folders above the joined files that it ships; in a clone there is none. */
function buildText(): string {
  try {
    return ` (build ${readFileSync(new URL("../../build.txt", import.meta.url), "utf8").trim()})`;
  } catch {
    return "";
  }
}

/** @example "0.2.0 (build 1f2e3d4a5b6c)" */
export const versionText = `${VERSION}${buildText()}`;
