// `npm run package`: an archive and a Debian package of what is built, each with its own Node.js, in build/.
// The same commit gives the same bytes: times, owners and the order of files are fixed.
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import { mkdirSync, mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { tmpdir } from "node:os";
import path from "node:path";
import { parseArgs } from "node:util";
import { makeArchive } from "./archive.mjs";
import { makeDebianPackage } from "./debian.mjs";
import { stage } from "./stage.mjs";

const ARCHITECTURES = ["x64", "arm64"];

const { values } = parseArgs({
  options: {
    arch: { type: "string", default: "x64" },
    out: { type: "string", default: "build" },
    // For a test of the archive alone.
    only: { type: "string" },
  },
});
if (!ARCHITECTURES.includes(values.arch)) {
  process.stderr.write(`Unknown architecture ${values.arch}. There are: ${ARCHITECTURES.join(", ")}.\n`);
  process.exit(2);
}

const git = (...words) => execFileSync("git", words, { encoding: "utf8" }).trim();
const { version } = JSON.parse(readFileSync("package.json", "utf8"));
const release = {
  version,
  arch: values.arch,
  commit: git("rev-parse", "--short=12", "HEAD"),
  // All files get the time of the commit (SOURCE_DATE_EPOCH).
  epoch: Number(process.env.SOURCE_DATE_EPOCH ?? git("log", "-1", "--format=%ct")),
};
const startedAt = performance.now();
/** Progress: a line a step, with the seconds since the start. */
const say = (line) =>
  process.stderr.write(`${((performance.now() - startedAt) / 1000).toFixed(1).padStart(6)} s  ${line}\n`);
const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-package-"));
try {
  const out = path.resolve(values.out);
  mkdirSync(out, { recursive: true });
  const tree = path.join(folder, "tree");
  stage(tree, release, say);
  const makers = { archive: makeArchive, debian: makeDebianPackage };
  for (const [name, make] of Object.entries(makers)) {
    if (values.only !== undefined && values.only !== name) continue;
    say(`Making the ${name === "archive" ? "archive" : "Debian package"}`);
    const file = make(tree, folder, out, release);
    const hash = createHash("sha256").update(readFileSync(file)).digest("hex");
    process.stdout.write(`${path.relative(".", file)}  ${(statSync(file).size / 1e6).toFixed(1)} MB  sha256 ${hash}\n`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
