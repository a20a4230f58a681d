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

interface Shown {
  readonly key: string;
  readonly hash: string;
}

/** Unknown keys make it read again, but not more often than this. */
const READ_AGAIN_MS = 1_000;

export class KeyRing {
  private readonly pool: Pool;
  private holders = new Map<string, InletHolder>();
  /** What was last shown on a connection, so that a caller who keeps it need not be looked up for each call. */
  private readonly shown = new WeakMap<object, Shown>();
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

  /**
   * The id of the key, if it is one of this inlet.
   *
   * @param connection the one that it is shown on, if that may show it again
   */
  async keyOf(key: string, slug: string, connection?: object): Promise<number | null> {
    const before = connection && this.shown.get(connection);
    const hash = before?.key === key ? before.hash : sha256(key).toString("base64");
    if (connection && before?.key !== key) this.shown.set(connection, { key, hash });
    const holder = this.known(hash) ?? (await this.lookAgain(hash));
    return holder?.inlet.slug === slug ? holder.keyId : null;
  }

  private known(hash: string): InletHolder | null {
    const known = this.holders.get(hash);
    return known && (known.expiresAt === null || Date.now() < known.expiresAt) ? known : null;
  }

  private async lookAgain(hash: string): Promise<InletHolder | null> {
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
      const inlet = bySlug.get(slug);
      if (inlet) holders.set(tokenSha256.toString("base64"), { inlet, keyId, expiresAt });
    }
    this.holders = holders;
    this.readAt = performance.now();
  }
}
