/** Calls to outside services: named hosts only, no redirects, bounded in time and size. */
import type { Called, Calls } from "./inlet.ts";

const WITHIN_MS = 10_000;
const MOST_BYTES = 1_048_576;

/** @param mayCall host:port each; nothing else is ever called */
export function createCalls(mayCall: readonly string[]): Calls {
  return {
    async fetch(url, init = {}): Promise<Called> {
      const { hostname, port, protocol } = new URL(url);
      const place = `${hostname}:${port || (protocol === "https:" ? 443 : 80)}`;
      if (!["http:", "https:"].includes(protocol) || !mayCall.includes(place))
        throw new Error(`${place} is not among the hosts that may be called. Add it to BOLD_RELAY_MAY_CALL.`);
      const giveUp = new AbortController();
      const timer = setTimeout(() => giveUp.abort(), WITHIN_MS);
      try {
        const response = await fetch(url, { ...init, redirect: "manual", signal: giveUp.signal });
        return { status: response.status, body: await bounded(response), etag: response.headers.get("etag") };
      } catch (error) {
        if (giveUp.signal.aborted)
          throw new Error(`${place} did not answer within ${WITHIN_MS / 1000} s.`, { cause: error });
        const code = (error as { cause?: { code?: string } }).cause?.code;
        throw code === undefined ? error : new Error(`${place} cannot be reached (${code}).`, { cause: error });
      } finally {
        clearTimeout(timer);
      }
    },
  };
}

async function bounded(response: Response): Promise<string> {
  const chunks: Uint8Array[] = [];
  let size = 0;
  for await (const chunk of response.body ?? []) {
    size += chunk.length;
    if (size > MOST_BYTES) throw new Error(`Its answer is longer than ${MOST_BYTES} bytes.`);
    chunks.push(chunk);
  }
  return Buffer.concat(chunks).toString("utf8");
}
