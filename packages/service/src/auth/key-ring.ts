/**
 * Inlet keys in memory, so that a call costs no query. A key made elsewhere is found on its first use;
 * a revoked one is stopped by the journal, which checks it again in the commit of every request.
 */
import { findInletKeys, findInlets, type InletRecord } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { sha256 } from "./token.ts";

export interface InletHolder {
  readonly inlet: InletRecord;
  readonly keyId: number;
  /** ms since 1970; null: it does not expire. */
  readonly expiresAt: number | null;
}

/** Unknown keys make it read again, but not more often than this. */
const READ_AGAIN_MS = 1_000;

export class KeyRing {
  private readonly pool: Pool;
  private holders = new Map<string, InletHolder>();
  private readAt = Number.NEGATIVE_INFINITY;
  private reading: Promise<void> | null = null;

  constructor(pool: Pool) {
    this.pool = pool;
  }

  /** Keys were made or taken back here: the next call looks for itself. */
  stale(): void {
    this.readAt = Number.NEGATIVE_INFINITY;
    this.holders = new Map();
  }

  /** The id of the key, if it is one of this inlet. */
  async keyOf(key: string, slug: string): Promise<number | null> {
    const holder = await this.holderOf(sha256(key));
    return holder?.inlet.slug === slug ? holder.keyId : null;
  }

  private async holderOf(tokenSha256: Buffer): Promise<InletHolder | null> {
    const hash = tokenSha256.toString("base64");
    const known = this.holders.get(hash);
    if (known && (known.expiresAt === null || Date.now() < known.expiresAt)) return known;
    if (performance.now() - this.readAt >= READ_AGAIN_MS) {
      this.reading ??= this.read().finally(() => {
        this.reading = null;
      });
    }
    await this.reading;
    return this.holders.get(hash) ?? null;
  }

  private async read(): Promise<void> {
    const [inlets, keys] = await Promise.all([findInlets(this.pool), findInletKeys(this.pool)]);
    const bySlug = new Map(inlets.map((inlet) => [inlet.slug, inlet]));
    const holders = new Map<string, InletHolder>();
    for (const { inlet: slug, tokenSha256, keyId, expiresAt } of keys) {
      const inlet = slug === null ? undefined : bySlug.get(slug);
      if (inlet) holders.set(tokenSha256.toString("base64"), { inlet, keyId, expiresAt });
    }
    this.holders = holders;
    this.readAt = performance.now();
  }
}
