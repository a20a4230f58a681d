/**
 * `npm run attack`: tries an installation of one's own from the outside. Prints each attempt with what came of it, and ends with 1 where
 * one got what it wanted, with 3 where nothing answers.
 */
import { parseArgs } from "node:util";
import { attempts } from "./attempts.ts";
import type { Target } from "./wire.ts";

const USAGE = `npm run attack -- [URL]

Tries an installation of your own: the address, or BOLD_RELAY_URL, or http://127.0.0.1:4180.
With a key in BOLD_RELAY_KEY it also tries what an owner's key must not do. Where the
installation keeps its word, nothing is changed. Failed attempts are in its audit log.`;

const { values, positionals } = parseArgs({
  allowPositionals: true,
  options: { help: { type: "boolean", short: "h" } },
});
if (values.help) {
  process.stdout.write(`${USAGE}\n`);
  process.exit(0);
}
const url = (positionals[0] ?? process.env.BOLD_RELAY_URL ?? "http://127.0.0.1:4180").replace(/\/+$/, "");
const target: Target = { url, key: process.env.BOLD_RELAY_KEY || null };
process.exitCode = await run();

async function run(): Promise<number> {
  if (!URL.canParse(url) || !(await isAlive())) {
    process.stderr.write(`Nothing answers at ${url}/health/live. Give the address of a running installation.\n`);
    return 3;
  }
  const tried = attempts.filter(({ needsKey }) => needsKey === undefined || target.key !== null);
  let got = 0;
  for (const { aim, run: attempt } of tried) {
    const result = await attempt(target);
    if (result !== null) got += 1;
    process.stdout.write(`${result === null ? "refused" : "GOT IT "}  ${aim}${result === null ? "" : `: ${result}`}\n`);
    if (await isAlive()) continue;
    process.stdout.write(`GOT IT   the service does not answer after it\n`);
    return 1;
  }
  const left = attempts.length - tried.length;
  process.stdout.write(`\n${tried.length} attempts, ${got} got what they wanted.`);
  process.stdout.write(left > 0 ? ` ${left} more with an owner's key in BOLD_RELAY_KEY.\n` : "\n");
  return got > 0 ? 1 : 0;
}

async function isAlive(): Promise<boolean> {
  return fetch(`${url}/health/live`, { signal: AbortSignal.timeout(10_000) }).then(
    async (answer) => {
      await answer.arrayBuffer();
      return answer.ok;
    },
    () => false,
  );
}
