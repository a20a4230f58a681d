// `npm run words`, third part: what pages say of commands, settings, errors, metrics and defaults is what the code says.
import { readFileSync } from "node:fs";
import { blockLines, pages, prose } from "./read/pages.mjs";

const at = (file) => new URL(`../packages/${file}`, import.meta.url).href;
const { programOf } = await import(at("cli/src/index.ts"));
const { serverProgram } = await import(at("service/src/program/program.ts"));
const { errorCatalogue, defaultPolicy, inletKinds } = await import(at("core/src/index.ts"));
const { CONFIG_NAMES } = await import(at("service/src/platform/config/config.ts"));

const SCRIPTS = Object.keys(JSON.parse(readFileSync(new URL("../package.json", import.meta.url), "utf8")).scripts);
/** The command line's own, and one of the script that makes the database. */
const SETTINGS = [
  ...CONFIG_NAMES,
  "BOLD_RELAY_URL",
  "BOLD_RELAY_KEY",
  "BOLD_RELAY_PASSWORD_FILE",
  "BOLD_RELAY_DATABASE_PASSWORD",
];
const METRICS = [...readFileSync("docs/reference/metrics.md", "utf8").matchAll(/`(bold_relay_\w+)`/g)].map(
  ([, name]) => name,
);

const PROGRAMS = { "bold-relay": await programOf(), "bold-relay-server": serverProgram({}) };

const found = pages()
  .filter((file) => !/^CHANGELOG\.md$/.test(file))
  .flatMap((file) => [...commands(file), ...names(file)])
  .concat(policyDefaults(), inletRates());
for (const one of found) process.stdout.write(`${one}\n`);
if (found.length > 0) process.exitCode = 1;

/** Verbs and options that do not exist. */
function commands(file) {
  const inProse = prose(file).flatMap(({ at: line, text }) =>
    [...text.matchAll(/`((?:npx |sudo )?bold-relay(?:-server)? [^`]+)`/g)].map(([, command]) => ({ line, command })),
  );
  const inBlocks = blockLines(file, "sh").map(({ at: line, text }) => ({ line, command: text }));
  return [...inProse, ...inBlocks].flatMap(({ line, command }) =>
    [...command.matchAll(/(?:^|[\s;(])(bold-relay(?:-server)?) ((?:[^|;&>#`$]|\$\w)+)/g)].flatMap(([, name, words]) =>
      problemsOf(PROGRAMS[name], words.trim().split(/\s+/)).map((problem) => `${file}:${line}: ${problem}`),
    ),
  );
}

function problemsOf(whole, words) {
  let command = whole;
  const known = [whole];
  for (const word of words) {
    const inner = command.commands.find((one) => one.name() === word);
    if (!inner) break;
    command = inner;
    known.push(inner);
  }
  if (command === whole && /^[a-z]/.test(words[0] ?? "") && words[0] !== "help")
    return [`there is no command ${whole.name()} ${words[0]}`];
  const options = ["--help", "--version", ...known.flatMap((one) => one.options.map(({ long }) => long))];
  return words
    .filter((word) => /^--[a-z]/.test(word) && !options.includes(word.split("=")[0]))
    .map((word) => `${known.at(-1).name()} has no option ${word}`);
}

/** Settings, metrics, scripts and errors that do not exist. */
function names(file) {
  const lines = [...prose(file), ...blockLines(file, "sh")];
  return lines.flatMap(({ at: line, text }) =>
    [
      ...missing(text, /\bBOLD_RELAY_[A-Z_]+[A-Z]\b/g, SETTINGS, "setting"),
      ...missing(text, /\bbold_relay_\w+(?=[`{])/g, METRICS, "metric"),
      ...missing(text, /(?<=\bnpm run (?:--silent |-s )?)[a-z][\w:-]*/g, SCRIPTS, "script").filter(
        () => !text.includes("--workspace"),
      ),
      ...statuses(text),
    ].map((problem) => `${file}:${line}: ${problem}`),
  );
}

/** Errors as `409 in-use`: that there is one, and with this status. */
function statuses(text) {
  return [...text.matchAll(/`([45]\d\d) ([a-z][a-z-]+)`/g)].flatMap(([, status, code]) => {
    const error = errorCatalogue[code];
    if (error === undefined) return [`there is no error ${code}`];
    return error.status === Number(status) ? [] : [`the status of ${code} is ${error.status}, not ${status}`];
  });
}

function missing(text, pattern, known, what) {
  return [...text.matchAll(pattern)]
    .map(([name]) => name)
    .filter((name) => !known.includes(name))
    .map((name) => `there is no ${what} ${name}`);
}

/** The default column of the delivery settings. */
function policyDefaults() {
  const file = "docs/reference/channels.md";
  return prose(file).flatMap(({ at: line, text }) => {
    const [, setting, stated] = /^\| `(\w+)` \| `?([^|`]+?)`? \|/.exec(text) ?? [];
    if (!(setting in defaultPolicy) || defaultPolicy[setting] === null) return [];
    const real = String(defaultPolicy[setting]);
    return stated === real ? [] : [`${file}:${line}: the default of ${setting} is ${real}, not ${stated}`];
  });
}

function inletRates() {
  const file = "docs/reference/inlets.md";
  const row = prose(file).find(({ text }) => text.startsWith("| `perMinute`"));
  return Object.entries(inletKinds).flatMap(([kind, { perMinute }]) =>
    new RegExp(`\\b${kind}\\b[^;.]* ${perMinute}\\b`).test(row.text)
      ? []
      : [`${file}:${row.at}: the default of perMinute for ${kind} is ${perMinute}`],
  );
}
