/** Counts wrong keys by address: whoever guesses is slowed down before guessing gets anywhere. */
import type { IncomingMessage } from "node:http";
import { MemoryStore } from "express-rate-limit";
import proxyAddr from "proxy-addr";

const WINDOW_MS = 60_000;
const ALLOWED = 30;

export class WrongKeys {
  private readonly store = new MemoryStore();
  private readonly isTrusted: (address: string, hop: number) => boolean;

  /** @param trustedProxies addresses and networks whose X-Forwarded-For is believed */
  constructor(trustedProxies: readonly string[]) {
    this.isTrusted = proxyAddr.compile([...trustedProxies]);
    this.store.init({ windowMs: WINDOW_MS } as Parameters<MemoryStore["init"]>[0]);
  }

  /** Where a call came from, past the proxies that are believed. */
  addressOf(req: IncomingMessage): string {
    return proxyAddr(req, this.isTrusted);
  }

  /** @returns seconds to wait when this address has shown too many, else null */
  async count(req: IncomingMessage): Promise<number | null> {
    const { totalHits, resetTime } = await this.store.increment(this.addressOf(req));
    if (totalHits <= ALLOWED) return null;
    const left = (resetTime?.getTime() ?? Date.now() + WINDOW_MS) - Date.now();
    return Math.max(1, Math.ceil(left / 1000));
  }

  stop(): void {
    this.store.shutdown();
  }
}
