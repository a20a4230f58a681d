// What the run comes to: each failed test once more, at the end, where a reader of a long log looks first; then the count.
import { readFileSync } from "node:fs";
import { relative } from "node:path";

/** Lines of a failure's own text that are printed: what was expected and what came is within them. */
const LINES = 12;

// What each is of, and where its results are: tests=/tmp/results.json
const runs = process.argv.slice(2).map((run) => {
  const [of, file] = run.split("=");
  return { of, ...JSON.parse(readFileSync(file, "utf8")) };
});

for (const { of, numPassedTests, numFailedTests, testResults } of runs) {
  for (const { name, status, message, assertionResults } of testResults) {
    const where = `${relative(process.cwd(), name)} (${of})`;
    const failures = assertionResults.filter((test) => test.status === "failed");
    for (const test of failures) tell(`${where}: ${test.fullName}`, test.failureMessages.join("\n"));
    // A file that could not be read or set up has failed without any test of it having failed.
    if (status === "failed" && failures.length === 0) tell(where, message);
  }
  say(`${of}: ${numPassedTests} passed, ${numFailedTests} failed`);
}
const sum = (count) => runs.reduce((all, run) => all + run[count], 0);
say(`${sum("numPassedTests")} passed, ${sum("numFailedTests")} failed`);

function tell(title, text) {
  say(`FAILED ${title}`);
  for (const line of text.split("\n").slice(0, LINES)) say(`    ${line}`);
}

function say(line) {
  process.stdout.write(`${line}\n`);
}
