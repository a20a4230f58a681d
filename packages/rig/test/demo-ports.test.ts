/** Where the demo is: at the usual port if that is free, at the one that was chosen, or elsewhere; and what it says then. */
import { once } from "node:events";
import { mkdtempSync, readFileSync, rmSync, statSync } from "node:fs";
import { createServer, type Server } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, it } from "vitest";
import type { DemoStack } from "../src/demo/demo-stack.ts";
import { welcome } from "../src/demo/screen.ts";
import { keep, USUAL_LINE_PORT } from "../src/demo/secrets.ts";
import { writeShellFile } from "../src/demo/shell-files.ts";
import { freePort } from "../src/port.ts";

let folder: string;
let servers: Server[];
beforeEach(() => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-demo-ports-"));
  servers = [];
});
afterEach(() => {
  for (const server of servers) server.close();
  rmSync(folder, { recursive: true, force: true });
});

async function occupied(): Promise<number> {
  const server = createServer().listen(0, "127.0.0.1");
  servers.push(server);
  await once(server, "listening");
  return (server.address() as { port: number }).port;
}

const kept = (port?: number) => keep(path.join(folder, "kept.json"), [], port);

it("is where it was told to be, and comes back there whenever that port is free", async () => {
  const wanted = await freePort();
  expect((await kept(wanted)).ports.service).toBe(wanted);
  const server = createServer().listen(wanted, "127.0.0.1");
  await once(server, "listening");
  const elsewhere = (await kept()).ports.service;
  expect(elsewhere).not.toBe(wanted);
  // Elsewhere once more, not at a new place each time.
  expect((await kept()).ports.service).toBe(elsewhere);
  server.close();
  await once(server, "close");
  expect((await kept()).ports.service).toBe(wanted);
});

it("refuses a port that was asked for and is taken, and keeps what it knows", async () => {
  const { ports } = await kept(await freePort());
  const taken = await occupied();
  await expect(kept(taken)).rejects.toThrow(`Port ${taken} is taken by another program.`);
  expect(JSON.parse(readFileSync(path.join(folder, "kept.json"), "utf8"))).toMatchObject({ ports });
});

it("says in which address it is where that is not the usual one, with the commands as they are", () => {
  const stack = (url: string, missing: DemoStack["missing"] = []) =>
    ({
      url,
      newSecrets: { password: "p", inletKey: "k" },
      cliFile: "/x/.demo/cli.env",
      linePort: USUAL_LINE_PORT,
      missing,
    }) as unknown as DemoStack;
  const moved = welcome(stack("http://127.0.0.1:40123"), "/x");
  expect(moved).toContain("Port 4180 is not used: the console and the API are at http://127.0.0.1:40123");
  expect(moved).toContain("curl -X POST http://127.0.0.1:40123/in/hall-tablet");
  expect(moved.replace("Port 4180 is not used", "").replace("say http://127.0.0.1:4180 mean", "")).not.toContain(
    "4180",
  );
  const missing = [{ address: "alder-row/plover", why: "its connection to the broker fails: Not authorized" }];
  const usual = welcome(stack("http://127.0.0.1:4180", missing), "/x");
  expect(usual).not.toContain("is not used");
  expect(usual).toContain(
    "1 stand-in is not online:\n    alder-row/plover: its connection to the broker fails: Not authorized.",
  );
});

it("writes a file for the shell that only its owner reads, whatever is in its path", () => {
  const file = path.join(folder, "cli.env");
  writeShellFile(
    file,
    { BOLD_RELAY_KEY: "brk_'x" },
    { programs: "/opt/it's node", also: path.join(folder, "none.env") },
  );
  expect(statSync(file).mode & 0o777).toBe(0o600);
  expect(readFileSync(file, "utf8")).toContain("export PATH='/opt/it'\\''s node':\"$PATH\"");
});
