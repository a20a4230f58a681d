// `npm run sizes`: a source file over 300 lines says at its head why it is one, in a sentence with "Long because".
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

const MOST_LINES = 300;
const HEAD_LINES = 12;

const long = ["packages", "bench"].flatMap(sources).flatMap((file) => {
  const lines = readFileSync(file, "utf8").trimEnd().split("\n");
  const says = lines.slice(0, HEAD_LINES).join(" ").includes("Long because");
  return lines.length <= MOST_LINES || says ? [] : [`${file}: ${lines.length} lines, and no word at its head why`];
});
for (const one of long) process.stdout.write(`${one}\n`);
if (long.length > 0) process.exitCode = 1;

function sources(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) return ["node_modules", "dist", "test"].includes(entry.name) ? [] : sources(file);
    return /\.tsx?$/.test(entry.name) ? [file] : [];
  });
}
