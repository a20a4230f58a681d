/**
 * Calls to outside services: only to hosts that the configuration names, only at addresses that are meant, no redirects, bounded
 * in time and size. A name is resolved once, and the very address that was looked at is the one that is called: a name that
 * changes its mind in between, or that points into our own network, reaches nothing.
 */
import { lookup } from "node:dns/promises";
import { request as requestHttp } from "node:http";
import { request as requestHttps } from "node:https";
import { isIP } from "node:net";
import ipaddr from "ipaddr.js";
import type { CallRule } from "../platform/config/places.ts";

/** What the service itself may call. */
export interface Calls {
  /** Bounded in time and size; no redirect is followed. Rejects when the host is not among those that may be called. */
  fetch(url: string, init?: { method?: string; body?: string; headers?: Record<string, string> }): Promise<Called>;
}

interface Called {
  readonly status: number;
  readonly body: string;
  readonly etag: string | null;
}

const WITHIN_MS = 10_000;
const MOST_BYTES = 1_048_576;

/** @param rules nothing else is ever called */
export function createCalls(rules: readonly CallRule[]): Calls {
  return {
    async fetch(url, init = {}): Promise<Called> {
      const target = new URL(url);
      const place = placeOf(target);
      const rule = rules.find(({ host, port }) => `${host}:${port}` === place);
      if (!rule || !["http:", "https:"].includes(target.protocol))
        throw new Error(`${place} is not among the hosts that may be called. Add it to BOLD_RELAY_MAY_CALL.`);
      const signal = AbortSignal.timeout(WITHIN_MS);
      try {
        return await send(target, await addressOf(rule, place), init, signal);
      } catch (error) {
        if (signal.aborted) throw new Error(`${place} did not answer within ${WITHIN_MS / 1000} s.`, { cause: error });
        const { code } = error as NodeJS.ErrnoException;
        throw code === undefined ? error : new Error(`${place} cannot be reached (${code}).`, { cause: error });
      }
    },
  };
}

function placeOf({ hostname, port, protocol }: URL): string {
  return `${hostname.replace(/^\[|\]$/g, "")}:${port || (protocol === "https:" ? 443 : 80)}`;
}

/** @throws Error when none of its addresses is meant */
async function addressOf(rule: CallRule, place: string): Promise<string> {
  const found = await lookup(rule.host, { all: true });
  const meant = found.find(({ address }) => isMeant(rule, address));
  if (meant) return meant.address;
  throw new Error(
    `${place} is at ${found.map(({ address }) => address).join(", ")}, where it is not expected. ` +
      `If that is right, write ${place}=<network> in BOLD_RELAY_MAY_CALL.`,
  );
}

/**
 * Whether an address is one that a rule means: in its network, if it names one; the address itself; loopback for `localhost`;
 * else any public one (RFC 6890): a public name has no business in a private network.
 */
export function isMeant({ host, network }: CallRule, address: string): boolean {
  const found = ipaddr.process(address);
  if (network !== null) {
    const [base, bits] = ipaddr.parseCIDR(network);
    return found.kind() === base.kind() && found.match(base, bits);
  }
  if (isIP(host)) return ipaddr.process(host).toNormalizedString() === found.toNormalizedString();
  return host === "localhost" ? found.range() === "loopback" : found.range() === "unicast";
}

type Init = NonNullable<Parameters<Calls["fetch"]>[1]>;

function send(target: URL, address: string, { method = "GET", body, headers = {} }: Init, signal: AbortSignal) {
  const request = target.protocol === "https:" ? requestHttps : requestHttp;
  return new Promise<Called>((resolve, reject) => {
    const family = isIP(address);
    const asked = request(
      target,
      {
        method,
        headers: { ...headers, ...(body === undefined ? {} : { "content-length": Buffer.byteLength(body) }) },
        signal,
        agent: false,
        lookup: (_host, options, callback) => {
          if (options.all) callback(null, [{ address, family }]);
          else callback(null, address, family);
        },
      },
      (answer) => {
        const chunks: Buffer[] = [];
        let size = 0;
        answer.on("data", (chunk: Buffer) => {
          size += chunk.length;
          if (size > MOST_BYTES) answer.destroy(new Error(`Its answer is longer than ${MOST_BYTES} bytes.`));
          else chunks.push(chunk);
        });
        answer.on("error", reject);
        answer.on("end", () => {
          const status = answer.statusCode ?? 0;
          resolve({ status, body: Buffer.concat(chunks).toString("utf8"), etag: answer.headers.etag ?? null });
        });
      },
    );
    asked.on("error", reject);
    asked.end(body);
  });
}
