// The documents as they stand in a package: for somebody who has installed it and has neither a clone nor the demo.
import { cpSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from "node:fs";
import path from "node:path";

/** Pages that are about the repository or the demo. */
const NOT_SHIPPED = ["start.md", "tour.md", "screenshots.md", "looks.md", "benchmark.md", "decisions"];

/** What stands in pages of the repository → what an installation has. */
const REPLACED = [
  [/\bnpx (?=bold-relay)/g, ""],
  [
    /Run the\s+blocks\s+in\s+the\s+clone\s+while\s+the\s+\[demo\]\([^)]*\)\s+runs\./g,
    "The examples are of a made-up site; take the names of your own.",
  ],
  [/^(?:export )?KEY=\$\(cat \.demo\/([\w.-]+)\)/gm, "KEY=$(cat $1)"],
  [/\.demo\/(?=[\w-]+\.(?:key|secret|env)\b)/g, ""],
  [/^\. (?:cli|inlets|device|buttons)\.env\n/gm, ""],
  [/^\. \.demo\/\S+\n/gm, ""],
  [/^\(?sleep \d+; npm run standin -- (.*?)\).*$/gm, "# at the device: $1"],
  [/^npm run standin -- (.*)$/gm, "# at the device: $1"],
];

/** Copies README, changelog, `docs/`, `deploy/` and `examples/`, without what only a clone can use. */
export function copyDocuments(tree) {
  for (const name of ["CHANGELOG.md", "SECURITY.md"]) cpSync(name, path.join(tree, name));
  cpSync("packaging/README.md", path.join(tree, "README.md"));
  for (const folder of ["docs", "deploy", "examples"]) cpSync(folder, path.join(tree, folder), { recursive: true });
  for (const name of NOT_SHIPPED) rmSync(path.join(tree, "docs", name), { recursive: true, force: true });
  mkdirSync(path.join(tree, "docs"), { recursive: true });
  for (const file of markdownIn(tree, "")) {
    const at = path.join(tree, file);
    writeFileSync(at, forInstallation(readFileSync(at, "utf8"), tree, file));
  }
}

function markdownIn(tree, folder) {
  return readdirSync(path.join(tree, folder), { withFileTypes: true }).flatMap((entry) => {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) return /^(?:node_modules|packages|node|bin)$/.test(file) ? [] : markdownIn(tree, file);
    return file.endsWith(".md") ? [file] : [];
  });
}

function forInstallation(text, tree, file) {
  const replaced = REPLACED.reduce((so, [pattern, by]) => so.replace(pattern, by), text);
  return withoutDeadLinks(replaced, tree, path.dirname(file));
}

/** A link to what is not shipped becomes its text. */
function withoutDeadLinks(text, tree, folder) {
  return text.replace(/(!?)\[((?:[^\]]|\n)*?)\]\(([^)\s]+)\)/g, (whole, picture, label, link) => {
    if (/^[a-z]+:/.test(link) || link.startsWith("#")) return whole;
    const target = path.join(tree, folder, link.split("#")[0]);
    if (existsSync(target) && (statSync(target).isFile() || statSync(target).isDirectory())) return whole;
    return picture === "" ? label : "";
  });
}
