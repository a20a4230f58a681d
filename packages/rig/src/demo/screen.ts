/** What the demo prints. */
import type { DemoStack } from "./demo-stack.ts";
import type { MissingStandIn } from "./missing-stand-ins.ts";
import { USUAL_LINE_PORT, USUAL_PORT } from "./secrets.ts";
import { INLET, OWNER } from "./world.ts";

const plain = !process.stdout.isTTY || process.env.NO_COLOR !== undefined;
const style = (code: number) => (text: string) => (plain ? text : `\u001b[${code}m${text}\u001b[0m`);
const bold = style(1);
const faint = style(2);

/** Progress, a line a step, each with the seconds since the start. */
export function progress(): (line: string) => void {
  const startedAt = performance.now();
  return (line) => {
    const seconds = ((performance.now() - startedAt) / 1000).toFixed(1).padStart(5);
    process.stdout.write(`${faint(`${seconds} s`)}  ${line}\n`);
  };
}

/** @example missingWords([{ address: "alder-row/plover", why: "…" }]) // → "1 stand-in is not online: …" */
export function missingWords(missing: readonly MissingStandIn[]): string {
  const title = missing.length === 1 ? "1 stand-in is not online:" : `${missing.length} stand-ins are not online:`;
  return [title, ...missing.map(({ address, why }) => `  ${address}: ${why}.`)].join("\n");
}

/** What is not as all pages say it is: in bold, for whoever misses it sends a key to somebody else's service. */
function otherwise({ url, linePort, missing }: DemoStack): string[] {
  const moved = new URL(url).port !== String(USUAL_PORT);
  const port = moved
    ? [
        bold(`  Port ${USUAL_PORT} is not used: the console and the API are at ${url}`),
        `  Pages that say http://127.0.0.1:${USUAL_PORT} mean this address. \`. .demo/cli.env\` sets it for all commands.`,
        "",
      ]
    : [];
  const line =
    linePort !== USUAL_LINE_PORT ? [`  Typed lines are taken at port ${linePort}, not ${USUAL_LINE_PORT}.`, ""] : [];
  const away =
    missing.length === 0
      ? []
      : [
          ...missingWords(missing)
            .split("\n")
            .map((one) => `  ${one}`),
          "",
        ];
  return ["", ...port, ...line, ...away];
}

/** The screen that a newcomer starts from. */
export function welcome(stack: DemoStack, project: string): string {
  const file = stack.cliFile.startsWith(`${project}/`) ? stack.cliFile.slice(project.length + 1) : stack.cliFile;
  const secrets = stack.newSecrets;
  const signIn = secrets
    ? `${OWNER}  /  ${bold(secrets.password)}   ${faint("shown only now")}`
    : `${OWNER}  /  the password of the first start   ${faint("npm run demo -- --new-secrets makes another")}`;
  const inlet = secrets
    ? [
        "",
        `  A web inlet for ${INLET.name}, with a key of its own ${faint("(shown only now)")}:`,
        `    curl -X POST ${stack.url}/in/${INLET.slug} -H 'Prefer: wait=5' \\`,
        `      -H 'Authorization: Bearer ${secrets.inletKey}' \\`,
        `      -H 'Content-Type: application/json' -d '{"target":"path lights wren","action":"on"}'`,
      ]
    : [];
  return [
    ...otherwise(stack),
    `  ${bold("●──●──●──●  Bold Relay")}`,
    "",
    `  Console   ${bold(stack.url)}`,
    `  Sign in   ${signIn}`,
    "",
    "  In another terminal, in this folder:",
    `    . ${shellWord(file)}`,
    "    npx bold-relay status",
    '    npx bold-relay send "porch lantern, wren" on',
    "    npx bold-relay watch",
    ...inlet,
    "",
    `  See a fault named: ${faint("npm run standin -- fault alder-row/finch silent")}`,
    `  Stop everything:   ${faint("Ctrl-C")}       Begin anew: ${faint("npm run demo -- --fresh")}`,
    "",
    "",
  ].join("\n");
}

function shellWord(text: string): string {
  return /^[\w./-]+$/.test(text) ? text : `'${text.replaceAll("'", "'\\''")}'`;
}
