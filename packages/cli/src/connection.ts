/** From the options to a client of the service. */
import { type Client, createClient } from "@bold-relay/api";
import type { Command } from "commander";
import { httpTransport } from "./http-transport.ts";
import { signInAgainAt } from "./sign-in-again.ts";

export interface Connection {
  readonly client: Client;
  readonly json: boolean;
  /** The service's address without a path. */
  readonly url: string;
}

/** @throws Error when the address is not one */
export function connectionOf(command: Command): Connection {
  const { url, json } = command.optsWithGlobals<{ url: string; json?: boolean }>();
  if (!URL.canParse(url) || !/^https?:$/.test(new URL(url).protocol)) {
    throw new Error(`“${url}” is not an http address. Set --url or BOLD_RELAY_URL, like http://127.0.0.1:4180`);
  }
  const key = process.env.BOLD_RELAY_KEY;
  const baseUrl = url.replace(/\/+$/, "");
  const signInAgain = signInAgainAt(baseUrl, key || null);
  const options = { baseUrl, transport: httpTransport, signInAgain, onMissing: noteOnce() };
  return { client: createClient(key ? { ...options, key } : options), json: json === true, url: baseUrl };
}

/** On the error stream, so that what reads the output is not disturbed; once, also of a command that calls often. */
function noteOnce(): (instances: string) => void {
  let isNoted = false;
  return (instances) => {
    if (isNoted) return;
    isNoted = true;
    process.stderr.write(
      `No answer from ${instances}. Counts and published commands from there are not shown. States there can be unknown.\n`,
    );
  };
}
