// The tree that every package holds: built code, production dependencies, Node.js, programs that start them.
import { execFileSync } from "node:child_process";
import {
  chmodSync,
  cpSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from "node:fs";
import path from "node:path";
import { copyDocuments } from "./documents.mjs";
import { fetchNode } from "./node.mjs";

/** What runs on an installation, and of each package what it needs there. */
const PACKAGES = {
  core: ["dist"],
  api: ["dist", "openapi.json"],
  translators: ["dist"],
  service: ["dist", "migrations"],
  cli: ["dist/bundle"],
  console: ["dist"],
};
const PROGRAMS = {
  "bold-relay": "cli/dist/bundle/main.js",
  "bold-relay-server": "service/dist/main.js",
  "bold-relay-translate": "translators/dist/main.js",
};
/** Of dependencies: what no program reads. */
const NOT_NEEDED =
  /\.(map|d\.ts|d\.mts|d\.cts|md|markdown|html|ts|mts|cts|flow|yml|tsbuildinfo)$|^(\..*|tsconfig.*\.json)$/i;
const NOT_NEEDED_FOLDERS = new Set([
  "test",
  "tests",
  "__tests__",
  "docs",
  "example",
  "examples",
  "benchmark",
  "benchmarks",
  "coverage",
]);
/** Of our own: what is for building only. */
const NOT_SHIPPED = /\.(map|d\.ts)$|^\.tsbuildinfo$/;

/** @param release version, arch and commit; @param say told of each step */
export function stage(tree, release, say) {
  mkdirSync(tree, { recursive: true });
  say("Copying what is built");
  for (const [name, parts] of Object.entries(PACKAGES)) copyPackage(tree, name, parts);
  for (const name of ["service", "cli"])
    writeFileSync(path.join(tree, "packages", name, "build.txt"), `${release.commit}\n`);
  say("Installing the dependencies that run there");
  installDependencies(tree, release.arch);
  say("Fetching Node.js");
  fetchNode(path.join(tree, "node"), release.arch);
  writePrograms(tree);
  copyDocuments(tree);
}

function copyPackage(tree, name, parts) {
  const [from, to] = [path.join("packages", name), path.join(tree, "packages", name)];
  mkdirSync(to, { recursive: true });
  // Only what Node.js reads: neither scripts nor what it takes to build.
  const { version, type, exports, dependencies } = JSON.parse(readFileSync(path.join(from, "package.json"), "utf8"));
  const shipped = { name: `@bold-relay/${name}`, version, private: true, type, exports: built(exports), dependencies };
  writeFileSync(path.join(to, "package.json"), `${JSON.stringify(shipped, null, 2)}\n`);
  for (const part of parts) {
    if (!existsSync(path.join(from, part)))
      throw new Error(`${path.join(from, part)} is missing. Run npm run build first.`);
    cpSync(path.join(from, part), path.join(to, part), {
      recursive: true,
      filter: (file) => statSync(file).isDirectory() || !NOT_SHIPPED.test(path.basename(file)),
    });
  }
}

/** In a clone, packages are read from their sources; what is shipped is built. */
function built(exports = {}) {
  const builtFile = (file) => file.replace(/^\.\/src\/(.*)\.ts$/, "./dist/$1.js");
  return Object.fromEntries(Object.entries(exports).map(([name, file]) => [name, builtFile(file)]));
}

/** As the lock file has them; no script of theirs runs. */
function installDependencies(tree, arch) {
  const work = path.join(tree, "install");
  const manifests = ["package.json", "package-lock.json", ".npmrc", "bench/package.json"];
  manifests.push(...readdirSync("packages").map((name) => `packages/${name}/package.json`));
  for (const file of manifests) {
    mkdirSync(path.dirname(path.join(work, file)), { recursive: true });
    cpSync(file, path.join(work, file));
  }
  const ours = ["service", "cli", "translators"].flatMap((name) => ["--workspace", `@bold-relay/${name}`]);
  const words = ["ci", "--omit=dev", "--ignore-scripts", "--no-audit", "--no-fund", "--loglevel=error"];
  execFileSync("npm", [...words, ...ours, `--cpu=${arch}`, "--os=linux", "--libc=glibc"], {
    cwd: work,
    stdio: ["ignore", "ignore", "inherit"],
  });
  const modules = path.join(tree, "node_modules");
  cpSync(path.join(work, "node_modules"), modules, { recursive: true, verbatimSymlinks: true });
  // A version that only one of ours needs stands within it.
  const own = Object.keys(PACKAGES)
    .map((name) => path.join("packages", name, "node_modules"))
    .filter((folder) => existsSync(path.join(work, folder)));
  for (const folder of own)
    cpSync(path.join(work, folder), path.join(tree, folder), { recursive: true, verbatimSymlinks: true });
  rmSync(work, { recursive: true });
  for (const folder of [modules, ...own.map((one) => path.join(tree, one))]) {
    rmSync(path.join(folder, ".bin"), { recursive: true, force: true });
    rmSync(path.join(folder, ".package-lock.json"), { force: true });
    prune(folder);
  }
  for (const name of readdirSync(path.join(modules, "@bold-relay")))
    if (!(name in PACKAGES)) rmSync(path.join(modules, "@bold-relay", name));
}

const isNotNeeded = (folder) => folder.startsWith(".") || NOT_NEEDED_FOLDERS.has(folder);

function prune(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isSymbolicLink()) continue;
    if (entry.isDirectory()) {
      if (isNotNeeded(entry.name) && !existsSync(path.join(file, "package.json"))) rmSync(file, { recursive: true });
      else prune(file);
      if (existsSync(file) && readdirSync(file).length === 0) rmSync(file, { recursive: true });
    } else if (NOT_NEEDED.test(entry.name) && !/^licen[cs]e/i.test(entry.name)) rmSync(file);
    else chmodSync(file, 0o644);
  }
}

/** By the programs that run for long: young garbage gets 16 MB twice, as on older Node.js, instead of 64 MB twice. */
const FLAGS = { "bold-relay-server": "--max-semi-space-size=16 " };

/** Each finds its own place, also through a link. */
function writePrograms(tree) {
  mkdirSync(path.join(tree, "bin"));
  for (const [name, file] of Object.entries(PROGRAMS)) {
    const lines = [
      "#!/bin/sh",
      'here=$(dirname "$(readlink -f "$0")")/..',
      `exec "$here/node/node" ${FLAGS[name] ?? ""}"$here/packages/${file}" "$@"`,
      "",
    ];
    writeFileSync(path.join(tree, "bin", name), lines.join("\n"), { mode: 0o755 });
  }
}
