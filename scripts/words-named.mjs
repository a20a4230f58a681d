// `npm run words`, first part: names in the code that were retired, with the one that is used instead. A word has one spelling in
// file, type, column, JSON field and screen; whoever brings an old one back is told here.
import { readdirSync, readFileSync } from "node:fs";
import path from "node:path";

/** Whole words of identifiers, as they stand in camel case: "Tenure" is found in heldTenure and Tenure, not in tenured. */
const RETIRED = {
  Doom: "BlockReason, blocked",
  Decree: "submitForRule",
  Turnstile: "ChannelLock",
  ReceptionDesk: "RequestService",
  InletDesk: "RequestCalls",
  AcceptDesk: "RequestSubmission",
  Reception: "InletHandler",
  Shelf: "LaneStore",
  Berth: "Slot",
  Debt: "PendingAck",
  Sight: "RawMessage, …Input",
  Ledger: "RequestQueries",
  Tenure: "HeldLease",
  FarSide: "DeviceDriver",
  Glance: "retainedProbe",
  LaneBook: "LaneRunner",
  RequestBook: "OpenRequests",
  FigureBook: "Statistics",
  InletHouse: "InletRegistry",
  CaredMatter: "AlertWithState",
};

/** Where one stays: the name of a column in the SQL beside it. */
const STAYS = { Doom: /service\/src\/store\// };

const FOLDERS = ["packages", "bench"];
const found = FOLDERS.flatMap(sources).flatMap(uses);
for (const { file, line, word } of found) process.stdout.write(`${file}:${line}: ${word} is now ${RETIRED[word]}\n`);
if (found.length > 0) {
  process.stdout.write(`${found.length} retired names\n`);
  process.exitCode = 1;
}

function sources(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((entry) => {
    const file = path.join(folder, entry.name);
    if (entry.isDirectory()) return ["node_modules", "dist", "demo-data"].includes(entry.name) ? [] : sources(file);
    return /\.tsx?$/.test(entry.name) ? [file] : [];
  });
}

function uses(file) {
  const lines = readFileSync(file, "utf8").split("\n");
  return lines.flatMap((text, index) =>
    wordsIn(text)
      .filter((word) => !STAYS[word]?.test(file))
      .map((word) => ({ file, line: index + 1, word })),
  );
}

/** In identifiers only: what stands in comments and texts is looked at by people. */
function wordsIn(text) {
  const code = text.replace(/\/\/.*|^\s*\*.*|\/\*.*?\*\//g, "").replace(/(["'`]).*?\1/g, "");
  return Object.keys(RETIRED).filter((word) => {
    const small = word[0].toLowerCase() + word.slice(1);
    return new RegExp(`(?:\\b${small}|${word})s?(?![a-z])`).test(code);
  });
}
