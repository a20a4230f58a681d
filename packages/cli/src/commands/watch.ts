/** `bold-relay watch`: the board, live; in place on a terminal, a line a change elsewhere. */
import type { ChannelView, Client, LiveEvent, SiteView } from "@bold-relay/api";
import { ProblemError } from "@bold-relay/api";
import { Command } from "commander";
import { connectionOf } from "../connection.ts";
import { byText, isText, toldText, trackWithTime, when } from "../describe.ts";
import { bold, faint, onTerminal, printJson, printLine, visible } from "../output.ts";
import { stateTable } from "./state.ts";

const LONGEST_PAUSE_MS = 5_000;

export const watchCommand = new Command("watch")
  .description("show the board live until Ctrl-C")
  .argument("[site]", "only this site")
  .addHelpText(
    "after",
    "\nExamples:\n  bold-relay watch\n  bold-relay watch alder-row\n  bold-relay watch --json | jq -c '[.address, .observed.value]'",
  )
  .action(async (site: string | undefined, _options, command: Command) => {
    const { client, json } = connectionOf(command);
    const stop = new AbortController();
    for (const signal of ["SIGINT", "SIGTERM"] as const) process.once(signal, () => stop.abort());
    await follow(client, site, onTerminal && !json ? new Screen() : new Lines(json), stop.signal);
  });

/** Where a watched board goes. */
interface View {
  board(sites: readonly SiteView[]): void;
  channel(channel: ChannelView): void;
  trouble(text: string): void;
  close(): void;
}

const FIRST_PAUSE_MS = 500;

/** Reconnects for as long as it takes; each time it reads the board afresh, so that nothing is missed. */
async function follow(client: Client, site: string | undefined, view: View, signal: AbortSignal): Promise<void> {
  let pauseMs = FIRST_PAUSE_MS;
  const onEvent = (event: LiveEvent) => {
    if (event.name === "hello") pauseMs = FIRST_PAUSE_MS;
    show(event, client, site, view);
  };
  try {
    if (site !== undefined) await requireSite(client, site);
    while (!signal.aborted) {
      await listenOnce(client, onEvent, view, signal);
      await pause(pauseMs, signal);
      pauseMs = Math.min(pauseMs * 2, LONGEST_PAUSE_MS);
    }
  } finally {
    view.close();
  }
}

/** Runs one connection to its end. Rejects only with what does not become right by waiting, like a wrong key. */
async function listenOnce(
  client: Client,
  onEvent: (event: LiveEvent) => void,
  view: View,
  signal: AbortSignal,
): Promise<void> {
  try {
    await client.live(onEvent, signal);
    if (!signal.aborted) view.trouble("The connection ended; connecting again.");
  } catch (error) {
    if (signal.aborted) return;
    if (error instanceof ProblemError && !error.problem.retryable) throw error;
    view.trouble(`${error instanceof Error ? error.message : String(error)} Trying again.`);
  }
}

function show(event: LiveEvent, client: Client, site: string | undefined, view: View): void {
  const mine = (slug: string | undefined) => site === undefined || slug === site;
  if (event.name === "channel" && mine(event.data.address.split("/")[0])) view.channel(event.data);
  if (event.name !== "hello") return;
  client.board().then(
    ({ sites }) => view.board(sites.filter(({ slug }) => mine(slug))),
    (error: Error) => view.trouble(error.message),
  );
}

async function requireSite(client: Client, site: string): Promise<void> {
  const { sites } = await client.board();
  if (sites.some(({ slug }) => slug === site)) return;
  throw new Error(`There is no site “${site}”. Sites: ${sites.map(({ slug }) => slug).join(", ")}.`);
}

/** Draws the whole board over itself; the terminal's other screen is used, so that nothing of before is lost. */
class Screen implements View {
  private sites: SiteView[] = [];
  private note = "";
  private drawing: NodeJS.Timeout | null = null;
  private readonly clock = setInterval(() => this.draw(), 5_000);

  constructor() {
    process.stdout.write("\u001b[?1049h\u001b[?25l");
    process.stdout.on("resize", () => this.draw());
  }

  board(sites: readonly SiteView[]): void {
    this.sites = [...sites];
    this.note = "";
    this.draw();
  }

  channel(channel: ChannelView): void {
    this.sites = this.sites.map((site) => ({
      ...site,
      channels: site.channels.map((one) => (one.address === channel.address ? channel : one)),
    }));
    this.draw();
  }

  trouble(text: string): void {
    this.note = text;
    this.draw();
  }

  close(): void {
    clearInterval(this.clock);
    if (this.drawing) clearTimeout(this.drawing);
    process.stdout.write("\u001b[?25h\u001b[?1049l");
  }

  private draw(): void {
    this.drawing ??= setTimeout(() => {
      this.drawing = null;
      const parts = this.sites.map((site) => `${bold(site.name)}\n${stateTable(site.channels)}`);
      const foot = this.note || `${when.clock(Date.now())}  live, Ctrl-C leaves`;
      const lines = [...parts.join("\n\n").split("\n"), "", faint(foot)];
      const rows = process.stdout.rows ?? 24;
      const shown =
        lines.length <= rows
          ? lines
          : [...lines.slice(0, rows - 2), faint(`… ${lines.length - rows} lines more`), faint(foot)];
      // No wrap while drawing: a long row is cut at the edge instead of pushing the board up.
      process.stdout.write(`\u001b[?7l\u001b[H${shown.map(visible).join("\u001b[K\n")}\u001b[J\u001b[?7h`);
    }, 30);
  }
}

/** A line a change, for pipes and logs. */
class Lines implements View {
  private readonly json: boolean;
  private readonly last = new Map<string, string>();

  constructor(json: boolean) {
    this.json = json;
  }

  board(sites: readonly SiteView[]): void {
    for (const site of sites) for (const channel of site.channels) this.channel(channel);
  }

  channel(channel: ChannelView): void {
    if (this.json) return printJson(channel);
    const told = toldText(channel);
    const parts = [
      isText(channel, Date.now()),
      told && `(${told})`,
      channel.lastCommand ? trackWithTime(channel.lastCommand) : "",
    ];
    const text = parts.filter(Boolean).join("  ");
    if (this.last.get(channel.address) === text) return;
    this.last.set(channel.address, text);
    const who = byText(channel, Date.now());
    printLine(`${when.clockMs(Date.now())}  ${channel.address.padEnd(30)} ${text}${who ? faint(`  ${who}`) : ""}`);
  }

  trouble(text: string): void {
    process.stderr.write(`${visible(text)}\n`);
  }

  close(): void {}
}

function pause(ms: number, signal: AbortSignal): Promise<void> {
  if (signal.aborted) return Promise.resolve();
  return new Promise((resolve) => {
    const timer = setTimeout(resolve, ms);
    signal.addEventListener("abort", () => {
      clearTimeout(timer);
      resolve();
    });
  });
}
