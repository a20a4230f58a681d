/**
 * The walk of a newcomer: README, start, tour, then every other page, each as its reader meets it: its commands against one demo, its
 * files against their schemas and the service. Then the demo is stopped and started again. Packages go on from there (packaging/test).
 */
import { once } from "node:events";
import { mkdtempSync, readdirSync, readFileSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { type Client, createClient } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { type DemoStack, openDemoStack } from "../src/demo/demo-stack.ts";
import { type Block, blocksOf, isMarked, isOutput, isRun } from "./support/document.ts";
import { checkData } from "./support/page-data.ts";
import { type Places, printed, runBlocks } from "./support/page-shell.ts";

const ROOT = new URL("../../../", import.meta.url);
/** Made by a script from the code, which has a test of its own. */
const MADE = /^docs\/reference\/(calls|command-line|configuration|errors|files|metrics)\.md$/;

const pages = [
  ...readdirSync(ROOT).filter((file) => file.endsWith(".md")),
  ...["docs", "examples"].flatMap((folder) =>
    readdirSync(new URL(folder, ROOT), { recursive: true, encoding: "utf8" })
      .filter((file) => file.endsWith(".md"))
      .map((file) => path.posix.join(folder, file.replaceAll("\\", "/"))),
  ),
]
  .filter((file) => !MADE.test(file) && blocksOf(ROOT, file).length > 0)
  .sort((one, other) => place(one) - place(other) || one.localeCompare(other));

/** In the order of the walk. One page dresses the demo for pictures, with a lock-out and members: no other may follow. */
function place(page: string): number {
  const first = ["README.md", "docs/start.md", "docs/tour.md"];
  if (page === "docs/screenshots.md") return 3;
  return first.includes(page) ? first.indexOf(page) - 10 : page.startsWith("docs/how-to/") ? 1 : 2;
}

let stack: DemoStack;
const demo = path.join(mkdtempSync(path.join(tmpdir(), "bold-relay-pages-")), "demo");
let client: Client;
let places: Places;

beforeAll(async () => {
  stack = await openDemoStack({ folder: demo, newSecrets: true, fresh: true, say: () => {} });
  client = createClient({ baseUrl: stack.url, key: stack.cliEnv.BOLD_RELAY_KEY });
  const { ports } = JSON.parse(readFileSync(path.join(demo, "kept.json"), "utf8")) as { ports: { desk: number } };
  places = {
    demo,
    addresses: { "127.0.0.1:4180": new URL(stack.url).host, "127.0.0.1 4188": `127.0.0.1 ${ports.desk}` },
  };
}, 120_000);
afterAll(async () => {
  await stack?.stop();
  rmSync(path.dirname(demo), { recursive: true, force: true });
});

/** What a page did to the boards is not the next page's. */
async function cureBoards(): Promise<void> {
  const control = `http://127.0.0.1:${stack.controlPort}/`;
  const boards = (await (await fetch(control)).json()) as Record<string, { fault: string }>;
  const faulty = Object.entries(boards).filter(([, { fault }]) => fault !== "none");
  await Promise.all(faulty.map(([board]) => fetch(`${control}${board}/fault/none`, { method: "POST" })));
}

describe.each(pages)("%s", (page) => {
  const blocks = blocksOf(ROOT, page);
  afterAll(cureBoards);

  it("says of each block what becomes of it", () => {
    expect(blocks.filter((block) => !isMarked(block)).map(({ place }) => place)).toEqual([]);
  });

  it.runIf(blocks.some(isRun))("runs, and prints what it shows", { timeout: 150_000 }, async () => {
    const runs = blocks.filter(isRun);
    const { output, trouble } = await runBlocks(runs, places);
    expect(trouble).toBeNull();
    for (const [index, block] of runs.entries()) {
      const shown = outputOf(block, blocks);
      if (shown && !printed(output[index] ?? "", shown.text))
        expect.soft(output[index], `printed at ${block.place}, shown otherwise`).toBe(shown.text);
    }
  });

  const data = blocks.filter(({ language }) => ["yaml", "json"].includes(language));
  it.each(data)("$place is taken by its schema and by the service", (block) => checkData(block, client));
});

describe("after all pages", () => {
  it("the demo stops, and starts again with what its reader has made of it", { timeout: 120_000 }, async () => {
    await stack.stop();
    const { ports } = JSON.parse(readFileSync(path.join(demo, "kept.json"), "utf8")) as { ports: Ports };
    // Other programs have come meanwhile.
    const taken = await Promise.all([ports.service, ports.desk, ports.services].map(occupy));
    stack = await openDemoStack({ folder: demo, newSecrets: false, fresh: false, temporary: true, say: () => {} });
    // Its own stand-ins are all there, or each that is not is named with its reason. Devices of the reader's are nobody's concern here.
    for (const { address, why } of stack.missing)
      expect([address, why]).toEqual([expect.any(String), expect.stringMatching(/\w+ \w+/)]);
    expect(stack.missing.map(({ address }) => address)).not.toContain("alder-row/desk");
    expect(stack.missing.map(({ address }) => address)).not.toContain("alder-row/garage");
    const again = createClient({ baseUrl: stack.url, key: stack.cliEnv.BOLD_RELAY_KEY });
    const devices = await again.devices();
    // What the reader added is still there, and known for what it is.
    const presences = Object.fromEntries(devices.map(({ address, presence }) => [address, presence]));
    expect(presences).toMatchObject({ "alder-row/desk": "offline", "alder-row/garage": "never-heard" });
    // The demo's inlets follow its parts to where they are now.
    const now = (JSON.parse(readFileSync(path.join(demo, "kept.json"), "utf8")) as { ports: Ports }).ports;
    for (const name of ["service", "desk", "services"] as const) expect(now[name]).not.toBe(ports[name]);
    const settings = async (slug: string) => (await again.inlet(slug)).inlet.settings;
    expect(await settings("service-desk")).toMatchObject({ port: now.desk });
    expect(await settings("caretaker-sheet")).toMatchObject({ url: `http://127.0.0.1:${now.services}/remote.csv` });
    const lines = blocksOf(ROOT, "docs/how-to/inlet-line.md").filter(isRun);
    expect((await runBlocks(lines, places)).trouble).toBeNull();
    for (const server of taken) server.close();
    const [readme] = blocksOf(ROOT, "README.md").filter(isRun);
    const { trouble } = await runBlocks(readme ? [readme] : [], places);
    expect(trouble).toBeNull();
  });
});

interface Ports {
  readonly service: number;
  readonly desk: number;
  readonly services: number;
}

async function occupy(port: number): Promise<Server> {
  const server = createServer((socket) => socket.end("a stranger's service\n")).listen(port, "127.0.0.1");
  await once(server, "listening");
  return server;
}

/** What a page shows of the output of a block: it stands right behind it. */
function outputOf(block: Block, blocks: readonly Block[]): Block | null {
  const next = blocks[blocks.indexOf(block) + 1];
  return next && isOutput(next) ? next : null;
}
