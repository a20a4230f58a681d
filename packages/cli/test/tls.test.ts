/** A service behind TLS whose certificate is not trusted: what is wrong, and how to trust it. */
import { execFile } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readFileSync, rmSync } from "node:fs";
import { createServer, type Server } from "node:https";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { fileURLToPath } from "node:url";
import { makeCertificates } from "@bold-relay/rig";
import { afterAll, beforeAll, expect, it } from "vitest";

const CLI = fileURLToPath(new URL("../bin/bold-relay.js", import.meta.url));
const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-tls-"));

let server: Server;
let ca: string;

beforeAll(async () => {
  const certificates = makeCertificates(folder);
  ca = certificates.ca;
  const { key, cert } = certificates.broker;
  server = createServer({ key: readFileSync(key), cert: readFileSync(cert) }, (_req, res) => res.end("[]"));
  server.listen(0, "127.0.0.1");
  await once(server, "listening");
});
afterAll(() => {
  server.close();
  rmSync(folder, { recursive: true, force: true });
});

function run(words: readonly string[], more: Record<string, string> = {}) {
  const env = { PATH: process.env.PATH ?? "", BOLD_RELAY_KEY: "brk_x", ...more };
  return new Promise<{ code: number; out: string; err: string }>((resolve) => {
    execFile(process.execPath, [CLI, ...words], { env }, (error, out, err) => {
      resolve({ code: typeof error?.code === "number" ? error.code : 0, out, err });
    });
  });
}
const url = (scheme: string) => `${scheme}://127.0.0.1:${(server.address() as AddressInfo).port}`;

it("says that it is not trusted, and how to trust it", async () => {
  const { code, err } = await run(["--url", url("https"), "site"]);
  expect(code).toBe(3);
  expect(err).toContain("is not trusted");
  expect(err).toContain("export NODE_EXTRA_CA_CERTS=FILE");
  const json = JSON.parse((await run(["--url", url("https"), "site", "--json"])).err) as { title: string };
  expect(json.title).toBe("The certificate is not trusted");
});

it("and that works", async () => {
  const { code, out } = await run(["--url", url("https"), "site"], { NODE_EXTRA_CA_CERTS: ca });
  expect([code, out]).toEqual([0, "No site yet. Load one from a file: bold-relay site load\n"]);
});

it("tells a certificate for another name from one that is unknown", async () => {
  const named = url("https").replace("127.0.0.1", "localhost.localdomain");
  const { err } = await run(["--url", named, "site"], { NODE_EXTRA_CA_CERTS: ca });
  expect(err).toMatch(/is for another name|No answer from/);
});

it("an address that speaks no TLS is told as such", async () => {
  const plain = (await import("node:http")).createServer((_req, res) => res.end("[]")).listen(0, "127.0.0.1");
  await once(plain, "listening");
  const { err } = await run(["--url", `https://127.0.0.1:${(plain.address() as AddressInfo).port}`, "site"]);
  plain.close();
  expect(err).toContain("does not speak TLS");
});
