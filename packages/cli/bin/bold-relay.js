#!/usr/bin/env node
// The command line, from its sources. Packages start a build of it and do not hold this file.
import { enableCompileCache } from "node:module";

if (process.features.typescript) {
  enableCompileCache?.();
  await import("../src/main.ts");
} else {
  process.stderr.write(`bold-relay runs on Node.js 24; this is ${process.version}.\n`);
  process.stderr.write("In a clone, the demo brings it: . .demo/cli.env puts it first on the path.\n");
  process.exit(2);
}
