/** What the service dials by itself: only what the configuration means, at the address that was looked at, without detours. */
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createCalls, isMeant } from "../src/platform/calls.ts";
import type { CallRule } from "../src/platform/config/places.ts";

const rule = (host: string, network: string | null = null): CallRule => ({ host, port: 443, network });

describe("an address", () => {
  it.each([
    ["sheets.example", null, "203.0.114.7", true],
    ["sheets.example", null, "127.0.0.1", false],
    ["sheets.example", null, "10.0.0.7", false],
    ["sheets.example", null, "192.168.1.1", false],
    ["sheets.example", null, "172.16.0.1", false],
    ["sheets.example", null, "169.254.169.254", false],
    ["sheets.example", null, "100.64.0.1", false],
    ["sheets.example", null, "0.0.0.0", false],
    ["sheets.example", null, "::1", false],
    ["sheets.example", null, "::ffff:127.0.0.1", false],
    ["sheets.example", null, "fd00::1", false],
    ["sheets.example", null, "fe80::1", false],
    ["sheets.example", null, "2606:4700::1", true],
    ["panel.example", "10.1.0.0/16", "10.1.2.3", true],
    ["panel.example", "10.1.0.0/16", "10.2.2.3", false],
    ["panel.example", "10.1.0.0/16", "203.0.114.7", false],
    ["panel.example", "10.1.0.0/16", "::ffff:10.1.2.3", true],
    ["localhost", null, "127.0.0.1", true],
    ["localhost", null, "192.168.1.1", false],
    ["127.0.0.1", null, "127.0.0.1", true],
    ["127.0.0.1", null, "127.0.0.2", false],
  ] as const)("of %s in %s at %s is meant: %s", (host, network, address, is) => {
    expect(isMeant(rule(host, network), address)).toBe(is);
  });
});

describe("a call", () => {
  let port: number;
  const reached: string[] = [];
  const server = createServer((req, res) => {
    reached.push(req.url ?? "");
    if (req.url === "/moved") res.writeHead(302, { location: `http://127.0.0.1:${port}/inside` }).end();
    else if (req.url === "/endless") {
      res.writeHead(200);
      const pour = () => {
        while (res.write(Buffer.alloc(65_536)));
        res.once("drain", pour);
      };
      pour();
    } else res.writeHead(200, { etag: '"1"' }).end("here");
  });

  beforeAll(async () => {
    await new Promise<void>((resolve) => server.listen(0, "127.0.0.1", resolve));
    ({ port } = server.address() as AddressInfo);
  });
  afterAll(() => {
    server.closeAllConnections();
    server.close();
  });

  const calls = (host: string, network: string | null = null) => createCalls([{ host, port, network }]);

  it("reaches what is named, and brings its answer", async () => {
    const called = await calls("localhost").fetch(`http://localhost:${port}/x`, { headers: { "x-one": "1" } });
    expect(called).toEqual({ status: 200, body: "here", etag: '"1"' });
  });

  it("reaches nothing by a name that points elsewhere than is meant", async () => {
    const before = reached.length;
    await expect(calls("localhost", "192.0.2.0/24").fetch(`http://localhost:${port}/x`)).rejects.toThrow(
      /where it is not expected.*BOLD_RELAY_MAY_CALL/,
    );
    expect(reached.length).toBe(before);
  });

  it.each([
    "http://127.0.0.1:1/",
    "https://localhost/",
    "file:///etc/passwd",
    "http://other.example/",
    "http://[::1]:80/",
  ])("reaches nothing at %s, which is not named", async (url) => {
    await expect(calls("localhost").fetch(url)).rejects.toThrow(/not among the hosts/);
  });

  it("follows no detour", async () => {
    const { status } = await calls("127.0.0.1").fetch(`http://127.0.0.1:${port}/moved`);
    expect([status, reached.includes("/inside")]).toEqual([302, false]);
  });

  it("takes no endless answer", async () => {
    await expect(calls("127.0.0.1").fetch(`http://127.0.0.1:${port}/endless`)).rejects.toThrow(/longer than/);
  });
});
