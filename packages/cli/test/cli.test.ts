/** The command line, run as people run it, against a real service: what it prints, and what it exits with. */
import { type ChildProcess, execFile, spawn } from "node:child_process";
import { once } from "node:events";
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from "node:fs";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { tmpdir } from "node:os";
import path from "node:path";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createWorld, type World } from "../../service/test/support/world.ts";

const CLI = inject("cliProgram");

let world: World;

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 8_000 } });
  await world.board("wren");
  await world.board("finch");
});
afterAll(() => world.stop());

function env(more: Record<string, string> = {}) {
  return {
    PATH: process.env.PATH ?? "",
    BOLD_RELAY_URL: world.service.url,
    BOLD_RELAY_KEY: world.key,
    BOLD_RELAY_PASSWORD_FILE: world.passwordFile,
    TZ: "UTC",
    ...more,
  };
}

interface Said {
  readonly code: number;
  readonly out: string;
  readonly err: string;
}

function run(words: string[], more: Record<string, string> = {}): Promise<Said> {
  return new Promise((resolve) => {
    execFile(process.execPath, [CLI, ...words], { env: env(more) }, (error, out, err) => {
      resolve({ code: typeof error?.code === "number" ? error.code : 0, out, err });
    });
  });
}

describe("send", () => {
  it("waits for the proof, and exits 0", async () => {
    const { code, out } = await run(["send", "porch lantern, wren", "on"]);
    expect(code).toBe(0);
    const [title, track, verdict, hint] = out.split("\n");
    expect(title).toBe("Porch lantern, Wren → on");
    expect(track).toMatch(/^●──●──●──● {2}[\d.]+ m?s$/);
    expect(verdict).toMatch(/^Confirmed\. The device acknowledged the command and reports on, .* after the request\.$/);
    expect(hint).toMatch(/^bold-relay trace [0-9a-f-]{36}$/);
    expect(out).not.toContain("\u001b");
  });

  it("takes the name without quotes, the last word being the action", async () => {
    expect(await run(["send", "wren", "hall", "light", "on"])).toMatchObject({ code: 0 });
  });

  it("exits 1 when the device says no, and says so", async () => {
    const board = await world.board("finch");
    await board.setFault("refusing");
    const { code, out } = await run(["send", "finch/porch", "on"]);
    await board.setFault("none");
    expect(code).toBe(1);
    expect(out).toContain("●──●┄┄✕──○  failed");
    expect(out).toContain("Refused by the device.");
  });

  it("exits 1 for a name that nothing has, with the nearest", async () => {
    const { code, err } = await run(["send", "wren/porhc", "on"]);
    expect(code).toBe(1);
    expect(err).toContain(`Nearest: ${world.address("wren/porch")}`);
  });

  it("does not wait when told so", async () => {
    const board = await world.board("finch");
    await board.setFault("silent");
    const { code, out } = await run(["send", "finch/hall", "on", "--wait", "0"]);
    await board.setFault("none");
    expect([code, out.includes("Accepted; not waited for.")]).toEqual([1, true]);
  });
});

describe("exit codes", () => {
  it.each([
    ["a wrong option", ["send", "--loud", "x", "on"], {}, 2],
    ["a missing channel", ["send", "on"], {}, 2],
    ["an unknown verb", ["dance"], {}, 2],
    ["an address that is none", ["status"], { BOLD_RELAY_URL: "nowhere" }, 2],
    ["nobody there", ["status"], { BOLD_RELAY_URL: "http://127.0.0.1:1" }, 3],
    ["no key", ["status"], { BOLD_RELAY_KEY: "" }, 4],
    ["a wrong key", ["status"], { BOLD_RELAY_KEY: "brk_wrong" }, 4],
    ["help", ["--help"], {}, 0],
  ])("%s", async (_title, words, more, code) => {
    const said = await run(words, more);
    expect(said.code).toBe(code);
    expect(said.out + said.err).not.toMatch(/^\s+at /m);
  });

  it("every verb has help with an example", async () => {
    for (const verb of ["status", "send", "state", "log", "trace", "watch", "commission", "site", "wire"]) {
      const { code, out } = await run([verb, "--help"]);
      expect([verb, code]).toEqual([verb, 0]);
      expect(out).toContain(`bold-relay ${verb}`);
      expect(out).toMatch(/Examples?:/);
    }
  });
});

describe("looking", () => {
  it("status: each part, and the counts", async () => {
    const { code, out } = await run(["status"]);
    expect(code).toBe(0);
    expect(out).toMatch(/^broker +up +round trip \d/m);
    expect(out).toMatch(/^1 sites?, 3 devices/m);
  });

  it("state: one aligned row a channel, or JSON Lines", async () => {
    await run(["send", "wren/path", "on"]);
    const { out } = await run(["state", world.address("wren")]);
    expect(out).toMatch(/^ {2}3 +Path lights +on +●──●──●──●/m);
    expect(out.split("\n").filter((line) => line.includes("finch"))).toEqual([]);
    const lines = (await run(["state", "--json"])).out.trim().split("\n");
    expect(lines.map((line) => JSON.parse(line).address)).toHaveLength(7);
  });

  it("trace: every hop with its bytes, and what was refused", async () => {
    await run(["send", "wren/path", "off"]);
    const { code, out } = await run(["trace", "last"]);
    expect(code).toBe(0);
    for (const hop of ["accepted", "sent", "acknowledged", "confirmed"]) expect(out).toMatch(new RegExp(`m?s +${hop}`));
    expect(out).toContain(`${world.address("wren/path/do")}  {"id":`);
    await run(["send", "nothing/here", "on"]);
    const refused = await run(["trace"]);
    expect(refused.code).toBe(1);
    expect(refused.out).toContain("Nothing has this name.");
    expect((await run(["trace", "7"])).code).toBe(1);
  });
});

describe("who may do what", () => {
  it("members and keys are made, shown once, and leave a trace", async () => {
    const added = await run(["member", "add", "Pilar", "--at", `${world.site}=user`]);
    expect(added.out).toMatch(new RegExp(`^Pilar, user at ${world.site}\\. Password, shown only now: \\S+$`, "m"));
    expect((await run(["member"])).out).toMatch(/Pilar +user at site-/);
    const made = await run(["key", "add", "wall", "--most", "user", "--days", "30", "--json"]);
    const { key } = JSON.parse(made.out) as { key: string };
    expect((await run(["state"], { BOLD_RELAY_KEY: key })).code).toBe(0);
    expect((await run(["log"], { BOLD_RELAY_KEY: key })).code).toBe(4);
    const id = JSON.parse(
      (await run(["key", "--json"])).out.split("\n").find((line) => line.includes('"wall"')) ?? "{}",
    ).id;
    expect((await run(["key", "revoke", String(id)])).code).toBe(0);
    expect((await run(["state"], { BOLD_RELAY_KEY: key })).code).toBe(4);
    expect((await run(["member", "delete", "Pilar"])).code).toBe(0);
    const audit = (await run(["audit"])).out;
    for (const what of ["added the member", "created the key", "revoked the key", "removed the member"])
      expect(audit).toContain(what);
    expect(audit + made.out.replace(key, "")).not.toContain(key);
    expect((await run(["member", "add", "X", "--at", "nonsense"])).code).toBe(2);
  });
});

describe("history", () => {
  it("tells the last 24 hours of a channel in one line, then line by line", async () => {
    const { code, out } = await run(["history", "porch", "lantern,", "wren"]);
    expect(code).toBe(0);
    expect(out).toMatch(/^Porch lantern, Wren has been on since \d\d:\d\d, requested by Ines\. In 24 h: /);
    expect(out).toMatch(/commanded: on +Ines +●──●──●──●/);
    expect((await run(["history", "nothing"])).err).toContain("No channel is called “nothing”");
  });
});

describe("cancel", () => {
  it("says so when there is nothing open to cancel", async () => {
    const { requests } = await world.client.log({ result: "delivered", limit: 1 });
    const { code, err } = await run(["cancel", requests[0]?.id ?? "", "--reason", "done anyway"]);
    expect([code, err]).toEqual([1, expect.stringContaining("It has ended already")]);
  });
});

describe("lock and unlock", () => {
  it("hold a channel against everybody, and let it go", async () => {
    const locked = await run(["lock", "Path", "lights,", "finch", "--reason", "new lamps"]);
    expect([locked.code, locked.out]).toEqual([0, expect.stringContaining("is locked out by Ines")]);
    const refused = await run(["send", "finch/path", "on"]);
    expect(refused.code).toBe(1);
    expect(refused.err).toContain("Ines has locked out");
    expect((await run(["state", world.address("finch")])).out).toContain("locked out by Ines");
    expect((await run(["unlock", "finch/path"])).code).toBe(0);
    expect((await run(["send", "finch/path", "on"])).code).toBe(0);
    expect((await run(["unlock", "finch/path"])).err).toContain("is not locked out. Nothing is.");
  });
});

describe("log", () => {
  it("newest at the end, narrowed by what it is asked", async () => {
    await run(["send", "wren/porch", "off"]);
    await run(["send", "wren/porhc", "on"]);
    const { code, out } = await run(["log"]);
    expect(code).toBe(0);
    expect(out.trimEnd().split("\n").at(-1)).toMatch(/“wren\/porhc” on +not understood +Nothing has this name$/);
    expect((await run(["log", "--result", "refused", "--limit", "1"])).out).toContain("not understood");
    const lines = (await run(["log", "--channel", "wren/porch", "--json"])).out.trim().split("\n");
    for (const line of lines) expect(JSON.parse(line).commands[0].channel).toBe(world.address("wren/porch"));
    expect((await run(["log", "--words", "nobody said this"])).out).toBe("No request matches.\n");
    expect((await run(["log", "--result", "happily"])).code).toBe(2);
  });
});

describe("statistics", () => {
  it("tell the success rate, and a row for each day or device", async () => {
    const { out, code } = await run(["stats", "--days", "2"]);
    expect(code).toBe(0);
    const [title, successRate, proven, half] = out.split("\n");
    expect(title).toMatch(/^\d{4}-\d\d-\d\d to \d{4}-\d\d-\d\d \(.+\)$/);
    expect(successRate).toMatch(/^\d[\d.]* % of commands delivered: \d+ of \d+ commands, \d failed/);
    expect(proven).toMatch(
      /^By stage: \d+ confirmed, 0 acknowledged, 0 sent only\. Requests refused: \d+, not understood: [1-9]/,
    );
    expect(half).toMatch(/^median {10}●──[\d.]+ m?s──●──[\d.]+ m?s──●──[\d.]+ m?s──● {3}in all/);
    const byDevice = (await run(["stats", "--by", "device", "--site", world.site])).out;
    expect(byDevice).toMatch(new RegExp(`\\n.* ${world.site}/wren$`, "m"));
    const view = JSON.parse((await run(["stats", "--json"])).out);
    expect(view.days).toHaveLength(7);
  });

  it("of wrong days are refused", async () => {
    expect((await run(["stats", "--days", "0"])).code).toBe(2);
    const { code, err } = await run(["stats", "--from", "2026-02-30"]);
    expect([code, err]).toEqual([2, expect.stringMatching(/“from” is no day of the calendar/)]);
    expect((await run(["stats", "--site", "elsewhere"])).err).toMatch(/elsewhere/);
  });
});

describe("completion", () => {
  /** What bash would offer for a line that ends where the cursor is. */
  async function offered(line: string): Promise<string[]> {
    const script = (await run(["completion", "bash"])).out;
    const bin = mkdtempSync(path.join(tmpdir(), "bold-relay-bin-"));
    writeFileSync(path.join(bin, "bold-relay"), `#!/bin/sh\nexec ${process.execPath} ${CLI} "$@"\n`, { mode: 0o755 });
    const asks = `${script}\nCOMP_WORDS=(${line}); COMP_CWORD=$((\${#COMP_WORDS[@]} - 1)); _bold_relay; printf '%s\\n' "\${COMPREPLY[@]}"`;
    const shell = { env: env({ PATH: `${bin}:${process.env.PATH}` }) };
    return new Promise((resolve) => {
      execFile("bash", ["-c", asks], shell, (_error, out) => resolve(out.split("\n").filter(Boolean)));
    });
  }

  it("offers verbs, options and addresses in bash", async () => {
    expect(await offered('bold-relay "st"')).toEqual(["status", "state", "stats"]);
    expect(await offered('bold-relay send "--r"')).toEqual(["--rehearse"]);
    expect(await offered('bold-relay inlet "re"')).toEqual(expect.arrayContaining(["rehearse"]));
    expect(await offered(`bold-relay send "${world.site}/wren/p"`)).toEqual(
      ["wren/porch", "wren/path"].map((one) => world.address(one)),
    );
    expect(await offered(`bold-relay commission "${world.site}/w"`)).toEqual([world.address("wren")]);
  });

  it("offers nothing that a shell would carry out, whatever a service answers", async () => {
    const addresses = ["a/b/c", "$(touch owned)/b/c", "a/`id`/c", "a/b/c d", "a/b/$HOME"];
    const board = { sites: [{ channels: addresses.map((address) => ({ address })) }] };
    const hostile = createServer((_req, res) =>
      res.setHeader("content-type", "application/json").end(JSON.stringify(board)),
    );
    await once(hostile.listen(0, "127.0.0.1"), "listening");
    const { port } = hostile.address() as AddressInfo;
    const said = await run(["completion", "--addresses", "channels"], { BOLD_RELAY_URL: `http://127.0.0.1:${port}` });
    hostile.close();
    expect(said.out).toBe("a/b/c\n");
  });

  it("is written for each shell, in its own words", async () => {
    expect((await run(["completion", "zsh"])).out).toMatch(/^autoload -U \+X bashcompinit/);
    expect((await run(["completion", "fish"])).out).toMatch(
      /^complete -c bold-relay -f\ncomplete -c bold-relay -n __fish_use_subcommand -a status -d /,
    );
    expect((await run(["completion"])).code).toBe(2);
    expect((await run(["completion", "tcsh"])).code).toBe(2);
    expect(
      await run(["completion", "--addresses", "channels"], { BOLD_RELAY_URL: "http://127.0.0.1:1" }),
    ).toMatchObject({ code: 0, out: "" });
  });
});

describe("watch", () => {
  it("prints a line a change until it is stopped, and reconnects", async () => {
    const child: ChildProcess = spawn(process.execPath, [CLI, "watch", "--json"], {
      env: env(),
      stdio: ["ignore", "pipe", "pipe"],
    });
    let text = "";
    const seen = (isSo: (lines: Record<string, unknown>[]) => boolean) =>
      new Promise<void>((resolve) => {
        const look = () => {
          const lines = text
            .split("\n")
            .slice(0, -1)
            .map((line) => JSON.parse(line) as Record<string, unknown>);
          if (isSo(lines)) resolve();
        };
        child.stdout?.on("data", look);
        look();
      });
    child.stdout?.setEncoding("utf8").on("data", (chunk: string) => {
      text += chunk;
    });
    await seen((lines) => lines.length >= 7);
    await (await world.board("wren")).flip("hall");
    await seen((lines) => lines.some((line) => (line.observed as { cause?: string } | null)?.cause === "hand"));
    child.kill("SIGINT");
    const [code] = await once(child, "exit");
    expect(code).toBe(0);
  });

  it("a wrong key ends it at once", async () => {
    expect((await run(["watch"], { BOLD_RELAY_KEY: "brk_wrong" })).code).toBe(4);
  });
});

describe("devices", () => {
  it("are listed with what they speak and whether they are there, or with what they need at the broker", async () => {
    const { code, out } = await run(["devices"]);
    expect(code).toBe(0);
    expect(out).toMatch(/\/wren +board in the cupboard +Wren +reporting +3 +online/);
    const access = (await run(["devices", world.site, "--access"])).out;
    expect(access).toContain(`user ${world.site}.wren\ntopic read ${world.site}/wren/hall/do\n`);
    expect(access).toContain(`topic write ${world.site}/wren/here\n`);
  });

  it("go into a file and come back changed, while the service runs", async () => {
    const folder = mkdtempSync(path.join(tmpdir(), "bold-relay-cli-"));
    const file = path.join(folder, "site.yaml");
    expect((await run(["site", "save", world.site, file])).out).toContain("version 1 is saved to");
    const changed = readFileSync(file, "utf8").replace("name: Hall light", "name: Hall lamp");
    writeFileSync(file, changed);
    const checked = await run(["site", "check", file]);
    expect([checked.code, checked.out]).toEqual([0, expect.stringContaining('name: "Hall light" → "Hall lamp"')]);
    expect((await run(["site", "load", file, "--at", "1"])).out).toContain("version 2 is in effect.");
    expect((await run(["site", "load", file, "--at", "1"])).err).toContain("has version 2 now");
    writeFileSync(file, changed.replace("profile: reporting", "profile: no-such"));
    const wrong = await run(["site", "check", file]);
    expect([wrong.code, wrong.out]).toEqual([1, expect.stringContaining("“no-such”, which does not exist")]);
    writeFileSync(file, "a: [1,");
    expect((await run(["site", "check", file])).err).toContain("site.yaml:");
    writeFileSync(file, `slug: &a x\nname: [${"*a, ".repeat(500)}*a]\n`);
    expect((await run(["site", "check", file])).err).toMatch(/alias|Excessive/i);
    expect((await run(["state"])).out).toContain("Hall lamp");
    rmSync(folder, { recursive: true });
  });

  it("are commissioned with somebody at the keyboard only; the record is for everybody", async () => {
    const device = `${world.site}/wren`;
    const { code, err } = await run(["commission", device]);
    expect([code, err]).toEqual([2, expect.stringContaining("Run it in a terminal")]);
    expect((await run(["commission", device, "--show"])).err).toContain("is not commissioned");
  });
});

describe("wire", () => {
  it("prints what is heard and what it is, and a message by hand is one of them", async () => {
    const { code, out } = await run(["wire", `${world.site}/wren/here`, "--count", "1"]);
    expect(code).toBe(0);
    expect(out).toMatch(/^\S+ ∙ \S+\/wren\/here {2}\{"up":true.* {2}presence, \S+\/wren, online/);
    const topic = `${world.site}/wren/path/is`;
    expect((await run(["publish", topic, '{"to":"on","by":"hand"}'])).out).toBe(`Published on ${topic}.\n`);
    expect((await run(["state", world.address("wren/path"), "--json"])).out).toContain('"cause":"hand"');
    expect((await run(["publish", "$SYS/x", "y"])).code).toBe(2);
  });
});
