/** `npm run demo -- --once`: one full example, as a person would run it, checked step by step. */
import { execFile } from "node:child_process";
import { createClient, type SessionView } from "@bold-relay/api";
import { type DemoStack, program } from "./demo-stack.ts";
import { INLET, OWNER } from "./world.ts";

interface Said {
  readonly code: number;
  readonly text: string;
}

/** @throws Error that says which step broke */
export async function runExample(stack: DemoStack): Promise<void> {
  await step("Sign in as the owner", async () => {
    const response = await fetch(`${stack.url}/api/v1/session`, {
      method: "POST",
      headers: { "content-type": "application/json", origin: stack.url },
      body: JSON.stringify({ name: OWNER, password: stack.newSecrets?.password }),
    });
    const session = (await response.json()) as SessionView;
    expect(response.ok && session.name === OWNER, `answered ${response.status}`);
    print(`Signed in as ${session.name}, ${session.role}.`);
  });

  await cli(stack, "Is everything alive?", ["status"], 0);
  await cli(
    stack,
    "Switch a light and watch it become confirmed",
    ["send", "porch lantern, wren", "on"],
    0,
    "Confirmed.",
  );
  await cli(stack, "Its trace", ["trace", "last"], 0, "Confirmed.");

  await step("Ask through the web inlet, with its own key", async () => {
    const client = createClient({ baseUrl: stack.url, key: stack.newSecrets?.inletKey ?? "" });
    const ask = { target: "path lights wren", action: "on", sender: "Wren guest book" };
    const request = await client.ask(ask, { inlet: INLET.slug, waitS: 5 });
    expect(request.outcome === "delivered", `the outcome is ${request.outcome}`);
    print(`${request.asker} asked for “${request.target}” ${request.action}: ${request.outcome}.`);
  });

  await cli(stack, "A level beyond the range", ["send", "dining dimmer, wren level 140"], 0, "100 % (asked: 140)");
  await cli(stack, "A whole group at once", ["send", "all porches", "on"], 0, "4 of 4 reached their target stage");
  await cli(stack, "An interlock: one vent on", ["send", "vent, open", "on"], 0, "Confirmed.");
  await cli(stack, "The other one: the first goes off before", ["send", "vent, close", "on"], 0, "2 of 2 reached");

  await step("Make the board in Finch silent", async () => {
    const fault = await fetch(`http://127.0.0.1:${stack.controlPort}/alder-row/finch/fault/silent`, { method: "POST" });
    expect(fault.ok, `the stand-in answered ${fault.status}`);
    print("It hears everything and does nothing.");
  });
  await cli(
    stack,
    "Send it a command: it is not answered",
    ["send", "finch porch lantern", "off"],
    1,
    "Stopped at the device.",
  );
  await cli(stack, "Where did it stop, and why?", ["trace", "last"], 1, "answered none");
  await cli(stack, "A name that does not exist", ["send", "porch lantern wern", "on"], 1, "Nearest:");
  await cli(stack, "Its last 24 hours, to tell a caller", ["history", "finch porch lantern"], 0, "1 not delivered");
  await cli(stack, "What is what", ["state"], 0, "Porch lantern");
}

async function step(title: string, work: () => Promise<void>): Promise<void> {
  process.stdout.write(`\n── ${title}\n`);
  try {
    await work();
  } catch (error) {
    throw new Error(`The step “${title}” broke: ${error instanceof Error ? error.message : String(error)}`, {
      cause: error,
    });
  }
}

function cli(stack: DemoStack, title: string, words: string[], code: number, text = ""): Promise<void> {
  const shown = words.map((word) => (/\s/.test(word) ? `"${word}"` : word)).join(" ");
  return step(`${title}\n   bold-relay ${shown}`, async () => {
    const said = await runCli(stack, words);
    print(said.text);
    expect(said.code === code, `exit code ${said.code}, expected ${code}`);
    expect(said.text.includes(text), `“${text}” is not in the answer`);
  });
}

function runCli(stack: DemoStack, words: string[]): Promise<Said> {
  const env = { ...process.env, ...stack.cliEnv };
  return new Promise((resolve) => {
    execFile(process.execPath, [program("cli"), ...words], { env, timeout: 60_000 }, (error, stdout, stderr) => {
      const code = error ? (typeof error.code === "number" ? error.code : 1) : 0;
      resolve({ code, text: `${stdout}${stderr}`.trimEnd() });
    });
  });
}

function print(text: string): void {
  process.stdout.write(`\n${text.replace(/^/gm, "   ")}\n`);
}

function expect(isSo: boolean, otherwise: string): void {
  if (!isSo) throw new Error(otherwise);
}
