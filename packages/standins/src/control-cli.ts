/** `npm run standin`: switches faults of the demo's stand-ins on and off, and presses their wall switches. */
import { readFile } from "node:fs/promises";
import { Command } from "commander";
import { FAULTS } from "./relay-board-options.ts";

/** Where the demo notes the control port. */
const PORT_FILE = process.env.STANDIN_PORT_FILE ?? ".demo/standins.port";

/** Where the demo keeps its ports. */
const KEPT_FILE = process.env.STANDIN_KEPT_FILE ?? ".demo/kept.json";

const program = new Command("npm run standin --")
  .description("Sets faults of the demo's stand-in boards and presses their wall switches.")
  .addHelpText(
    "after",
    `
Examples:
  npm run standin -- list                              every board, its fault and its outputs
  npm run standin -- fault alder-row/finch silent      it receives commands and does nothing
  npm run standin -- fault alder-row/finch none        no fault any more
  npm run standin -- flip alder-row/wren path          a hand at the wall switch
  npm run standin -- press alder-row/finch-wall button-1 twice    a finger on a button
  npm run standin -- power-cut alder-row/wren          off and on again; all outputs are off`,
  );

program
  .command("list")
  .description("list every board, its fault and its outputs")
  .action(() => call("GET", "/"));
program
  .command("fault <board> <fault>")
  .description(`one of ${FAULTS.join(", ")}`)
  .action((board: string, fault: string) => call("POST", `/${board}/fault/${encodeURIComponent(fault)}`));
program
  .command("flip <board> <channel>")
  .description("press the wall switch of a channel")
  .action((board: string, channel: string) => call("POST", `/${board}/flip/${encodeURIComponent(channel)}`));
program
  .command("press <board> <channel> [how]")
  .description("press a button once, twice or long")
  .action((board: string, channel: string, how = "once") =>
    call("POST", `/${board}/press/${encodeURIComponent(channel)}/${encodeURIComponent(how)}`),
  );
program
  .command("power-cut <board>")
  .description("switch the power of a board off and on")
  .action((board: string) => call("POST", `/${board}/power-cut`));

program
  .command("sheet <channel> <want>")
  .description("write one row of the demo's spreadsheet")
  .action(async (channel: string, want: string) => {
    const kept = JSON.parse(await readFile(KEPT_FILE, "utf8")) as { ports: { services: number } };
    const url = `http://127.0.0.1:${kept.ports.services}/remote.csv`;
    const quoted = (text: string) => `"${text.replaceAll('"', '""')}"`;
    const [head = "", ...rows] = (await (await fetch(url)).text()).trim().split("\n");
    const others = rows.filter((row) => !row.startsWith(`${quoted(channel)},`));
    const body = `${[head, ...others, `${quoted(channel)},${quoted(want)}`].join("\n")}\n`;
    await fetch(url, { method: "PUT", body });
    process.stdout.write(body);
  });

async function call(method: string, path: string): Promise<void> {
  const port = await readFile(PORT_FILE, "utf8").catch(() => {
    throw new Error("The demo's stand-ins are not running here. Start them with: npm run demo");
  });
  const response = await fetch(`http://127.0.0.1:${Number(port)}${path}`, { method }).catch((cause: unknown) => {
    throw new Error("The stand-ins do not answer. Start them with: npm run demo", { cause });
  });
  if (!response.ok) throw new Error((await response.text()).trim());
  const boards = (await response.json()) as Record<string, { fault: string; contacts: Record<string, string> }>;
  const shown = Object.entries(boards).filter(([board]) => path === "/" || path.startsWith(`/${board}/`));
  const width = Math.max(...shown.map(([board]) => board.length));
  for (const [board, { fault, contacts }] of shown) {
    const channels = Object.entries(contacts).map(([channel, value]) => `${channel} ${value}`);
    process.stdout.write(`${board.padEnd(width)}  fault ${fault.padEnd(10)}  ${channels.join(", ")}\n`);
  }
}

program.parseAsync().catch((error: unknown) => {
  process.stderr.write(`${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
