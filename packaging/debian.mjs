// The Debian package: the same tree under /usr/lib/bold-relay, with units, a system user and what prepares database and broker.
import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import {
  chmodSync,
  cpSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from "node:fs";
import path from "node:path";
import { gzipSync } from "node:zlib";

const FILES = "packaging/debian";
const HOME = "usr/lib/bold-relay";
const DEBIAN_ARCH = { x64: "amd64", arm64: "arm64" };
const SCRIPTS = ["preinst", "postinst", "prerm", "postrm"];

/** @returns the file */
export function makeDebianPackage(tree, work, out, release) {
  const root = path.join(work, "debian");
  const at = (...parts) => path.join(root, ...parts);
  mkdirSync(at("DEBIAN"), { recursive: true });
  cpSync(tree, at(HOME), { recursive: true, verbatimSymlinks: true });
  // Documents belong to their own place; the service shows none of them.
  moveDocuments(at);
  mkdirSync(at("usr/bin"), { recursive: true });
  for (const name of readdirSync(at(HOME, "bin"))) symlinkSync(`../lib/bold-relay/bin/${name}`, at("usr/bin", name));
  mkdirSync(at("lib/systemd/system"), { recursive: true });
  for (const unit of ["bold-relay.service", "bold-relay-broker.service"])
    cpSync(path.join(FILES, unit), at("lib/systemd/system", unit));
  // Debug symbols are of no use here: a third of its size.
  if (release.arch === "x64") execFileSync("strip", ["--strip-unneeded", at(HOME, "node/node")]);
  writePages(at, release);
  setModes(root);
  writeControl(at, root, release);
  setTimes(root, release.epoch);
  const file = path.join(out, `bold-relay_${release.version}_${DEBIAN_ARCH[release.arch]}.deb`);
  const env = { ...process.env, SOURCE_DATE_EPOCH: String(release.epoch) };
  execFileSync("dpkg-deb", ["--root-owner-group", "-Zxz", "--threads-max=2", "--build", root, file], {
    env,
    stdio: ["ignore", "ignore", "inherit"],
  });
  return file;
}

function moveDocuments(at) {
  const doc = at("usr/share/doc/bold-relay");
  mkdirSync(doc, { recursive: true });
  for (const name of ["README.md", "SECURITY.md", "docs", "examples"]) {
    cpSync(at(HOME, name), path.join(doc, name), { recursive: true });
    rmSync(at(HOME, name), { recursive: true });
  }
  rmSync(at(HOME, "CHANGELOG.md"));
}

function writePages(at, { version, epoch }) {
  const doc = at("usr/share/doc/bold-relay");
  const packed = (file, text) => writeFileSync(file, gzipSync(text, { level: 9 }));
  const date = new Date(epoch * 1_000).toUTCString().replace("GMT", "+0000");
  const entry = `bold-relay (${version}) stable; urgency=medium\n\n  * See changelog.gz.\n\n -- Bold Relay <packages@bold-relay.example>  ${date}\n`;
  packed(path.join(doc, "changelog.gz"), readFileSync("CHANGELOG.md"));
  packed(path.join(doc, "changelog.Debian.gz"), entry);
  cpSync(path.join(FILES, "copyright"), path.join(doc, "copyright"));
  mkdirSync(at("usr/share/man/man1"), { recursive: true });
  for (const name of readdirSync(FILES).filter((one) => one.endsWith(".1")))
    packed(at("usr/share/man/man1", `${name}.gz`), readFileSync(path.join(FILES, name)));
  mkdirSync(at("usr/share/lintian/overrides"), { recursive: true });
  cpSync(path.join(FILES, "lintian-overrides"), at("usr/share/lintian/overrides/bold-relay"));
}

function setModes(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isSymbolicLink()) continue;
    if (entry.isDirectory()) {
      chmodSync(file, 0o755);
      setModes(file);
    } else chmodSync(file, isProgram(file) ? 0o755 : 0o644);
  }
}

/** Everything else is started by these: Node.js is not where the first line of a script would look for it. */
function isProgram(file) {
  return /\/bold-relay\/(bin\/[^/]+|node\/node)$/.test(file);
}

function writeControl(at, root, { version, arch }) {
  const installedKb = Math.ceil(sizeOf(path.join(root, "usr")) / 1024);
  const control = readFileSync(path.join(FILES, "control"), "utf8")
    .replace("@VERSION@", version)
    .replace("@ARCH@", DEBIAN_ARCH[arch])
    .replace("@SIZE@", String(installedKb));
  writeFileSync(at("DEBIAN/control"), control);
  for (const script of SCRIPTS) {
    cpSync(path.join(FILES, script), at("DEBIAN", script));
    chmodSync(at("DEBIAN", script), 0o755);
  }
  writeFileSync(at("DEBIAN/md5sums"), sums(root, root).sort().join(""));
}

function sizeOf(folder) {
  return readdirSync(folder, { withFileTypes: true }).reduce((sum, entry) => {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) return sum + sizeOf(file);
    return entry.isSymbolicLink() ? sum : sum + statSync(file).size;
  }, 0);
}

function sums(root, folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const file = path.join(folder, entry.name);
    if (entry.isSymbolicLink() || file === path.join(root, "DEBIAN")) return [];
    if (entry.isDirectory()) return sums(root, file);
    return [`${createHash("md5").update(readFileSync(file)).digest("hex")}  ${path.relative(root, file)}\n`];
  });
}

function setTimes(folder, epoch) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) setTimes(file, epoch);
    if (!entry.isSymbolicLink()) utimesSync(file, epoch, epoch);
  }
  utimesSync(folder, epoch, epoch);
}
