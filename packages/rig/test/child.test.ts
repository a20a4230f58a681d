/** Children that end when told, and leftovers that are ended without touching anybody else's process. */
import { spawn } from "node:child_process";
import { once } from "node:events";
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { answers, endLeftover, eventually, freePort, isRunning, logTail, startChild } from "../src/index.ts";

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(path.join(tmpdir(), "bold-relay-rig-"));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const FOREVER = "setInterval(() => {}, 1000)";

function child(name: string, script: string) {
  const file = (end: string) => path.join(folder, `${name}.${end}`);
  const args = ["-e", script, `mark-${name}`];
  return { ...startChild({ name, command: process.execPath, args, logFile: file("log"), pidFile: file("pid") }), file };
}

describe("a child", () => {
  it("leaves a pid file while it runs, and its log behind", async () => {
    const one = child("talker", `console.log("hello"); ${FOREVER}`);
    expect(await eventually(async () => logTail(one.file("log")) === "hello", 10_000)).toBe(true);
    expect(Number(readFileSync(one.file("pid"), "utf8"))).toBe(one.pid);
    await one.stop();
    expect(await one.ended).toBe("SIGTERM");
    expect(existsSync(one.file("pid"))).toBe(false);
  });

  it("that cannot be started ends as such", async () => {
    const files = { logFile: path.join(folder, "none.log"), pidFile: path.join(folder, "none.pid") };
    const one = startChild({ name: "none", command: path.join(folder, "no-such-program"), args: [], ...files });
    expect(await one.ended).toBe(127);
  });
});

describe("leftovers", () => {
  it("are ended by their pid file, if the process is the one that is meant", async () => {
    const process_ = spawn(process.execPath, ["-e", FOREVER, "mark-left"], { stdio: "ignore" });
    const exited = once(process_, "exit");
    const pidFile = path.join(folder, "left.pid");
    writeFileSync(pidFile, `${process_.pid}\nmore lines, as PostgreSQL writes them\n`);
    expect(await eventually(async () => isRunning(pidFile, "mark-left"), 5_000)).toBe(true);
    await endLeftover(pidFile, "mark-left", "SIGTERM");
    expect((await exited)[1]).toBe("SIGTERM");
    expect(existsSync(pidFile)).toBe(false);
  });

  it("a pid that somebody else has by now is left alone, and its file goes", async () => {
    const other = spawn(process.execPath, ["-e", FOREVER, "somebody-else"], { stdio: "ignore" });
    const pidFile = path.join(folder, "stale.pid");
    writeFileSync(pidFile, String(other.pid));
    await endLeftover(pidFile, "mark-stale", "SIGKILL");
    expect([other.exitCode, existsSync(pidFile)]).toEqual([null, false]);
    other.kill();
  });

  it("no file, or nonsense in it, is nothing to end", async () => {
    const pidFile = path.join(folder, "nonsense.pid");
    await endLeftover(pidFile, "x", "SIGKILL");
    writeFileSync(pidFile, "-1");
    await endLeftover(pidFile, "", "SIGKILL");
    expect(existsSync(pidFile)).toBe(false);
  });
});

describe("ports", () => {
  it("the preferred one if it is free, else another", async () => {
    const preferred = await freePort();
    expect(await freePort(preferred)).toBe(preferred);
    const server = createServer().listen(preferred, "127.0.0.1");
    await once(server, "listening");
    expect(await answers(preferred)).toBe(true);
    expect(await freePort(preferred)).not.toBe(preferred);
    server.close();
    await once(server, "close");
    expect(await answers(preferred)).toBe(false);
  });
});
