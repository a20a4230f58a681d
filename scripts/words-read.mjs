// `npm run words`, second part: retired words in what people read, lines that are too long, links that lead nowhere.
import { existsSync, readFileSync } from "node:fs";
import path from "node:path";
import { headings, listFiles, pages, prose } from "./read/pages.mjs";

/** Each with the word that is used instead. */
const RETIRED = [
  [/\bpremises\b/i, "site"],
  [/\bnot as told\b/i, "drift"],
  [/\bunclaimed\b|\bnobody claims\b/i, "unassigned"],
  [/\bneeds? attention\b|\bAttention\b/, "alerts"],
  [/\bDeliveries\b/, "request log"],
  [/\bnotices\b/i, "notifications"],
  [/\b(?:its|their) aim\b|\baim:/i, "target stage"],
  [/\bbold-relay (?:prove|day|figures|attention|notice|close|deliveries|ask)\b/, "the verb of the command line"],
  [/\b(?:Make it|Leave it|Take it out|Let it go on|Take it on)\b/, "a verb with its object"],
  [/\bhalf in\b|\b19 of 20\b/, "median, 95th percentile"],
  [/\bafter the asking\b|\bways? to ask\b|\bwhoever asks\b|\bwho asks\b/i, "request"],
  [/\bdoes not get there\b|\bdo not get there\b/i, "fails"],
  [/\bgoes? round in circles\b/i, "is in a loop"],
  [/\bby (?:its|their) own word\b/i, "it reports"],
  [/\b(?:is|are|was|were) owed\b/i, "waiting for"],
  [/\blay retained\b|\blies retained\b|\blie retained\b/i, "retained"],
  [/\bis away\b|\bwas away\b|\bshown as away\b/i, "offline, not reachable"],
  [/\btake (?:it|them|a description) on\b|\btakes (?:it|them) on\b|\btaken on\b/i, "load"],
  [/\bcounts no more\b|\bcounts? from now on\b/i, "is no longer valid"],
  [/\bholds? the lanes\b|\bholder of the lanes\b/i, "leader"],
  [/\bstrangers?\b/i, "unknown sender"],
  [/\bsuperseded\b/i, "replaced"],
  [/\*aim\*|\baim (?:published|acknowledged|confirmed)\b/i, "target stage"],
  [/\bnot proven\b/i, "not commissioned, not confirmed"],
  [/\bsays? nothing back\b|\breports? what it is\b/i, "no answer; reports its state"],
];

/** What has to name the old words, or is written for people who read the code. */
const OLD_WORDS = /^(?:CHANGELOG\.md|docs\/decisions\/)/;
const LONGEST_LINE = 120;
/** A paragraph's line with room for less than this is full, characters. */
const SHORTEST_LINE = 100;
const BEGINS_ITEM = /^\s*(?:[-*]|\d+\.)\s/;
const isOfParagraph = (text) => text.trim() !== "" && !/^\s*(?:\||#|>|<|!\[)/.test(text);

const found = [
  ...listFiles(/^packages\/[a-z]+\/src\/.*\.tsx?$/)
    .filter((file) => !/^packages\/(?:soak|rig)\//.test(file))
    .flatMap((file) => retired(file, texts(readFileSync(file, "utf8")))),
  ...pages().flatMap((file) => [
    ...(OLD_WORDS.test(file) ? [] : retired(file, prose(file))),
    ...tooLong(file),
    ...brokenLines(file),
    ...deadLinks(file),
  ]),
];
for (const one of found) process.stdout.write(`${one}\n`);
if (found.length > 0) process.exitCode = 1;

function retired(file, lines) {
  return lines.flatMap(({ at, text }) =>
    RETIRED.flatMap(([pattern, now]) => {
      const word = pattern.exec(text)?.[0];
      return word === undefined ? [] : [`${file}:${at}: “${word}” is now: ${now}`];
    }),
  );
}

/** The texts of a source file: what stands in quotes or between tags, and no comment. */
function texts(source) {
  return source.split("\n").flatMap((line, index) => {
    const code = line.replace(/^\s*(?:\/\/|\/?\*).*|\s\/\/ .*$|\/\*\*?.*?\*\//g, "");
    const quoted = [...code.matchAll(/"([^"]*\s[^"]*)"|`([^`]*\s[^`]*)`|'([^']*\s[^']*)'/g)].map((match) =>
      match.slice(1).join(""),
    );
    const between = /^\s*[A-Z“][^<>{}=;()]*$/.test(code) ? [code] : [];
    return [...quoted, ...between].map((text) => ({ at: index + 1, text }));
  });
}

/** A table's row is one line, whatever is in it. */
function tooLong(file) {
  return prose(file)
    .filter(
      ({ text }) => !text.startsWith("|") && [...text].length > LONGEST_LINE && !/^\S*\[.*\]\(\S+\)\S*$/.test(text),
    )
    .map(({ at, text }) => `${file}:${at}: ${[...text].length} characters, ${LONGEST_LINE} at most`);
}

/** A line within a paragraph that ends early: the paragraph was changed and not wrapped again. */
function brokenLines(file) {
  const lines = prose(file);
  return lines.flatMap(({ at, text }, index) => {
    const next = lines[index + 1];
    if (next?.at !== at + 1 || !isOfParagraph(text) || !isOfParagraph(next.text) || BEGINS_ITEM.test(next.text))
      return [];
    const first = next.text.trim().split(/\s/)[0];
    if (text.length + 1 + first.length > SHORTEST_LINE) return [];
    return [`${file}:${at}: the line ends early: “${first}” fits in it`];
  });
}

function deadLinks(file) {
  return prose(file).flatMap(({ at, text }) =>
    [...text.replace(/`[^`]*`/g, "").matchAll(/\]\(([^)\s]+)\)/g)].flatMap(([, link]) =>
      /^[a-z]+:/.test(link) || leads(file, link) ? [] : [`${file}:${at}: ${link} leads nowhere`],
    ),
  );
}

function leads(file, link) {
  const [target, anchor] = link.split("#");
  // It stands at the root of a package.
  const at = file === "packaging/README.md" ? "README.md" : file;
  const to = target === "" ? at : path.posix.join(path.posix.dirname(at), target);
  if (!existsSync(to)) return false;
  return anchor === undefined || !to.endsWith(".md") || headings(to).includes(anchor);
}
