/** How the built console is sent: compressed, kept where that is right, and nothing that is no file of it. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { request } from "node:http";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, expect, it } from "vitest";
import { createWorld, type World } from "./support/world.ts";

let world: World;
const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-files-"));

beforeAll(async () => {
  mkdirSync(path.join(folder, "assets"));
  for (const file of ["index.html", "assets/board-abc.js", "service-worker.js"]) {
    writeFileSync(path.join(folder, file), `plain ${file}`);
    for (const ending of ["br", "gz"]) writeFileSync(path.join(folder, `${file}.${ending}`), `${ending} ${file}`);
  }
  writeFileSync(path.join(folder, "sign.svg"), "<svg/>");
  world = await createWorld({ consoleDir: folder });
});
afterAll(async () => {
  await world.stop();
  rmSync(folder, { recursive: true });
});

/** As it comes: `fetch` would undo the compression. */
function get(address: string, accepts: string, method = "GET", more: Record<string, string> = {}) {
  return new Promise<{ status: number; headers: NodeJS.Dict<string | string[]>; body: string }>((resolve, reject) => {
    const asked = request(`${world.service.url}${address}`, {
      method,
      headers: { "accept-encoding": accepts, ...more },
    });
    asked.on("error", reject);
    asked.on("response", async (response) => {
      const pieces: Buffer[] = [];
      for await (const piece of response) pieces.push(piece);
      const { statusCode: status = 0, headers } = response;
      resolve({ status, headers, body: Buffer.concat(pieces).toString() });
    });
    asked.end();
  });
}

it.each([
  ["gzip, deflate, br", "br", "br assets/board-abc.js"],
  ["gzip", "gzip", "gz assets/board-abc.js"],
  ["gzip;q=0, br;q=0", undefined, "plain assets/board-abc.js"],
  ["", undefined, "plain assets/board-abc.js"],
])("who accepts “%s” gets %s", async (accepts, encoding, body) => {
  const answer = await get("/assets/board-abc.js", accepts);
  expect(answer).toMatchObject({ status: 200, body });
  expect(answer.headers["content-encoding"]).toBe(encoding);
  expect(answer.headers["content-type"]).toMatch(/^text\/javascript; charset=utf-8$/i);
  expect(answer.headers.vary).toMatch(/accept-encoding/i);
});

it("a file with a hash in its name is kept for ever, the page and the worker are asked for each time", async () => {
  expect((await get("/assets/board-abc.js", "br")).headers["cache-control"]).toBe(
    "public, max-age=31536000, immutable",
  );
  for (const address of ["/", "/board/alder-row", "/index.html", "/service-worker.js"])
    expect((await get(address, "br")).headers["cache-control"], address).toBe("no-cache");
});

it("every address of a page is the page, with and without a question", async () => {
  for (const address of ["/", "/board", "/log?words=porch", "/devices/alder-row/wren"])
    expect(await get(address, "br"), address).toMatchObject({ status: 200, body: "br index.html" });
  expect(await get("/board", "br", "HEAD")).toMatchObject({ status: 200, body: "" });
});

it("what is no file and no page is not found, in the form of every problem", async () => {
  for (const address of [
    "/assets/none.js",
    "/assets/",
    "/assets",
    "/rooms/..%2fnone",
    "/assets/..%2f..%2fserver.key",
    "/api/none",
  ]) {
    const { status, headers } = await get(address, "br");
    expect(status, address).not.toBe(200);
    expect(headers["content-type"], address).toMatch(/^application\/problem\+json/);
  }
  expect((await get("/assets/board-abc.js", "br", "POST")).status).toBe(404);
});

it.each([
  "/API/v1/board",
  "//api/v1/board",
  "/%61pi/v1/board",
  "/api%2fv1/board",
  "/Docs",
  "/IN/hall-tablet",
  "/metrics/",
])("an address that may be taken for one of the service is no page: %s", async (address) => {
  const { status, headers } = await get(address, "");
  expect([404, 401, 405]).toContain(status);
  expect(headers["content-type"]).not.toContain("text/html");
});

it("what is read goes compressed to who accepts that; what is told once, and what is streamed, goes as it is", async () => {
  const key = { authorization: `Bearer ${world.key}` };
  const encodingOf = async (address: string, method = "GET") =>
    (await get(`/api/v1${address}`, "gzip, br", method, key)).headers["content-encoding"];
  expect(await encodingOf("/board")).toBe("br");
  expect((await get("/api/v1/board", "", "GET", key)).headers["content-encoding"]).toBeUndefined();
  expect(await encodingOf("/requests.csv")).toBeUndefined();
  expect(await encodingOf("/keys", "POST")).toBeUndefined();
});
