/** What a key may not do, from a shell: the password is asked for in a terminal, and never shown. */
import { spawn } from "node:child_process";
import { randomBytes } from "node:crypto";
import { once } from "node:events";
import { generateSync } from "otplib";
import { afterAll, beforeAll, describe, expect, inject, it } from "vitest";
import { createWorld, OWNER, signedInAs, type World } from "../../service/test/support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64") } });
});
afterAll(() => world.stop());

interface Typed {
  /** Everything that the terminal showed. */
  readonly shown: string;
  readonly code: number | null;
}

/** Runs the command line in a terminal of its own, and types each answer once its question is shown. */
async function inTerminal(words: string, answers: readonly [question: string, typed: string][]): Promise<Typed> {
  const command = `"${process.execPath}" "${inject("cliProgram")}" ${words}`;
  const terminal = spawn("script", ["-qec", command, "/dev/null"], {
    env: { PATH: process.env.PATH ?? "", BOLD_RELAY_URL: world.service.url, BOLD_RELAY_KEY: world.key, TERM: "dumb" },
  });
  let shown = "";
  const left = [...answers];
  terminal.stdout.on("data", (piece: Buffer) => {
    shown += piece.toString();
    const next = left[0];
    if (next === undefined || !shown.includes(next[0])) return;
    left.shift();
    terminal.stdin.write(next[1]);
  });
  const [code] = (await once(terminal, "close")) as [number | null];
  return { shown, code };
}

const names = async () => (await world.client.keys()).map(({ name }) => name);
const sessions = async () => (await world.pool.query("select from session where agent like 'bold-relay%'")).rowCount;

describe("a call that a key cannot make", () => {
  it("asks for the password in a terminal, does not show it, and leaves no session", async () => {
    const { shown, code } = await inTerminal("key add laptop", [
      [`Password of ${OWNER.name}: `, `${OWNER.password}\r`],
    ]);
    expect([code, shown]).toEqual([0, expect.stringMatching(/Key laptop of Ines.*\r?\nbrk_/s)]);
    expect(shown).not.toContain(OWNER.password);
    expect(await names()).toContain("laptop");
    expect(await sessions()).toBe(0);
  });

  it("does nothing with a wrong one", async () => {
    const { shown, code } = await inTerminal("key add guessed", [["Password of", "a guess of mine\r"]]);
    expect([code, shown]).toEqual([4, expect.stringContaining("No member has this name with this password")]);
    expect(await names()).not.toContain("guessed");
  });

  it("asks for the second factor of who has one: a code of the app, or a recovery code", async () => {
    const headers = await signedInAs(world.pool, OWNER.name, world.service.url);
    const account = async (method: string, body: object) => {
      const init = { method, headers: { ...headers, "content-type": "application/json" }, body: JSON.stringify(body) };
      return (await fetch(`${world.service.url}/api/v1/account/app`, init)).json();
    };
    const { secret } = (await account("POST", { password: OWNER.password })) as { secret: string };
    const { recoveryCodes } = (await account("PUT", { code: generateSync({ secret }) })) as { recoveryCodes: string[] };
    await world.pool.query("update member set totp_step = null");
    const password = ["Password of", `${OWNER.password}\r`] as [string, string];
    const codes = { "by-app": generateSync({ secret }), "by-recovery": recoveryCodes[0] ?? "" };
    for (const [name, code] of Object.entries(codes)) {
      const { shown } = await inTerminal(`key add ${name}`, [password, ["recovery code: ", `${code}\r`]]);
      expect(shown).toMatch(/brk_/);
      expect(shown).not.toContain(code);
    }
    expect(await names()).toEqual(expect.arrayContaining(Object.keys(codes)));
    await world.pool.query("update member set totp_secret = null, totp_since = null");
  });

  it.each([
    ["Ctrl-C", "\u0003"],
    ["Ctrl-D", "\u0004"],
  ])("does nothing after %s", async (_key, typed) => {
    const { shown, code } = await inTerminal("key add cancelled", [["Password of", typed]]);
    expect([code === 0, shown]).toEqual([false, expect.stringContaining("Cancelled. Nothing was changed.")]);
    expect(await names()).not.toContain("cancelled");
  });
});
