/**
 * A sign-in for a call that no key can make: people, roles, keys, rules. The password comes from the terminal, or from the file that
 * BOLD_RELAY_PASSWORD_FILE names. The session lives as long as this run.
 */
import { readFile } from "node:fs/promises";
import type { Readable, Writable } from "node:stream";
import {
  createClient,
  type IncomingAnswer,
  type SecondFactorView,
  type SessionView,
  type Transport,
} from "@bold-relay/api";
import { httpTransport } from "./http-transport.ts";

export type Headers = Readonly<Record<string, string>>;

let ending: (() => Promise<unknown>) | null = null;

/** For `ClientOptions.signInAgain`. Called once a run at most. @param key whose member signs in; null: the name is asked for */
export function signInAgainAt(baseUrl: string, key: string | null): () => Promise<Headers> {
  let shown: Promise<Headers> | null = null;
  return () => {
    shown ??= signIn(baseUrl, key);
    return shown;
  };
}

/** Ends the session of this run, if there is one. Never rejects: it expires by itself. */
export async function signOutAgain(): Promise<void> {
  await ending?.().catch(() => {});
  ending = null;
}

async function signIn(baseUrl: string, key: string | null): Promise<Headers> {
  const origin = new URL(baseUrl).origin;
  let cookie = "";
  const remembering: Transport = async (url, call) => {
    const answer = await httpTransport(url, { ...call, headers: { ...call.headers, origin } });
    cookie = cookieOf(answer) ?? cookie;
    return answer;
  };
  const client = createClient({ baseUrl, transport: remembering });
  const name = key === null ? await typed("Your name: ", false) : (await keyHolder(baseUrl, key)).name;
  const signed = await client.signIn({ name, password: await passwordOf(name) });
  if ("secondFactor" in signed) await second(client, signed);
  const headers = { cookie, origin };
  ending = () => httpTransport(`${baseUrl}/api/v1/session`, { method: "DELETE", headers });
  return headers;
}

async function second(client: ReturnType<typeof createClient>, { secondFactor }: SecondFactorView): Promise<void> {
  if (!secondFactor.app)
    throw new Error(
      "Your second factor is a passkey, which works in a browser only. Do this in the console, on the page Access.",
    );
  const shown = await typed("Code of your authenticator app, or a recovery code: ", true);
  const { ticket } = secondFactor;
  const isCode = /^\d{6}$/.test(shown.replace(/\s/g, ""));
  await client.signInSecond(isCode ? { ticket, code: shown } : { ticket, recoveryCode: shown });
}

function keyHolder(baseUrl: string, key: string): Promise<SessionView> {
  return createClient({ baseUrl, key, transport: httpTransport }).session();
}

/** "name=value" of the cookie that an answer sets. */
function cookieOf(answer: IncomingAnswer): string | null {
  return /^[^;]+/.exec(answer.header("set-cookie") ?? "")?.[0] ?? null;
}

async function passwordOf(name: string): Promise<string> {
  const file = process.env.BOLD_RELAY_PASSWORD_FILE;
  if (file === undefined || file === "") return typed(`Password of ${name}: `, true);
  const text = await readFile(file, "utf8").catch((cause: unknown) => {
    throw new Error(`BOLD_RELAY_PASSWORD_FILE names ${file}, which cannot be read.`, { cause });
  });
  return text.split(/\r?\n/, 1)[0] ?? "";
}

/** @throws Error where nobody can type, or where they press Ctrl-C or Ctrl-D */
async function typed(question: string, isHidden: boolean): Promise<string> {
  if (!process.stdin.isTTY || !process.stderr.isTTY)
    throw new Error(
      "This needs your password, a key is not enough. Run it in a terminal, or set BOLD_RELAY_PASSWORD_FILE to a file that holds your password.",
    );
  return ask(question, isHidden, process.stdin, process.stderr);
}

async function ask(question: string, isHidden: boolean, input: Readable, output: Writable): Promise<string> {
  const [{ createInterface }, { Writable: Sink }] = await Promise.all([import("node:readline"), import("node:stream")]);
  const silent = new Sink({ write: (_chunk, _encoding, done) => done() });
  const lines = createInterface({ input, output: isHidden ? silent : output, terminal: true });
  // After the terminal has stopped showing what is typed.
  output.write(question);
  try {
    return await new Promise<string>((resolve, reject) => {
      lines.once("line", resolve);
      lines.once("SIGINT", () => reject(new Error("Cancelled. Nothing was changed.")));
      lines.once("close", () => reject(new Error("Cancelled. Nothing was changed.")));
    });
  } finally {
    lines.close();
    if (isHidden) output.write("\n");
  }
}
