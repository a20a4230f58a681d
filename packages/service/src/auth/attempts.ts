/**
 * Slows down who guesses passwords: by account, and by address. After a few failures each further try has to wait, twice as long
 * each time, a minute at most: nobody is locked out. Where a member has signed in from before, a guesser elsewhere does not count
 * against them. Each try is counted before the password is looked at, so that many at once are not free.
 */
import { RelayError } from "@bold-relay/core";

/** Failures that cost nothing, by account and by address; behind one address there may be a whole office. */
const FREE = { account: 4, address: 20 } as const;
const LONGEST_MS = 60_000;
/** After so long without a failure all is forgotten. */
const FORGOTTEN_MS = 15 * 60_000;
const MOST_REMEMBERED = 50_000;

interface Failures {
  count: number;
  lastAt: number;
}

export class Attempts {
  private readonly now: () => number;
  private readonly failures = new Map<string, Failures>();

  /** @param now ms of a clock that never goes back */
  constructor(now: () => number = () => performance.now()) {
    this.now = now;
  }

  /**
   * Counts a try as a failure until `succeeded` says otherwise.
   *
   * @param isKnown the member has signed in from this address before
   * @throws RelayError too-many-attempts with the seconds to wait
   */
  begin(account: string, address: string, isKnown: boolean): { succeeded(): void } {
    return this.beginWith([
      { key: accountKey(account, address, isKnown), free: FREE.account },
      { key: `address ${network(address)}`, free: FREE.address },
    ]);
  }

  /** The same for a member who is signed in: by the account only, since others at their address have done nothing. */
  beginSignedIn(memberId: number): { succeeded(): void } {
    return this.beginWith([{ key: `member ${memberId}`, free: FREE.account }]);
  }

  private beginWith(keys: readonly { key: string; free: number }[]): { succeeded(): void } {
    const waitMs = Math.max(...keys.map(({ key, free }) => this.waitOf(key, free)));
    if (waitMs > 0) throw new RelayError("too-many-attempts", { seconds: Math.ceil(waitMs / 1000) });
    for (const { key } of keys) this.count(key);
    return {
      succeeded: () => {
        for (const { key } of keys) this.failures.delete(key);
      },
    };
  }

  private waitOf(key: string, free: number): number {
    const known = this.failures.get(key);
    if (!known || known.count <= free) return 0;
    const pauseMs = Math.min(LONGEST_MS, 1_000 * 2 ** (known.count - free - 1));
    return Math.max(0, known.lastAt + pauseMs - this.now());
  }

  private count(key: string): void {
    const now = this.now();
    const known = this.failures.get(key);
    const count = known && now - known.lastAt < FORGOTTEN_MS ? known.count + 1 : 1;
    this.failures.delete(key);
    this.failures.set(key, { count, lastAt: now });
    // The oldest first: what is forgotten early is what was quiet for longest.
    for (const [old, { lastAt }] of this.failures) {
      if (this.failures.size <= MOST_REMEMBERED && now - lastAt < FORGOTTEN_MS) break;
      this.failures.delete(old);
    }
  }
}

function accountKey(account: string, address: string, isKnown: boolean): string {
  const name = account.toLowerCase();
  return isKnown ? `account ${name} at ${network(address)}` : `account ${name}`;
}

/** One caller has a whole /64 of IPv6 (RFC 6177). */
function network(address: string): string {
  return address.includes(":") && !address.includes(".") ? address.split(":").slice(0, 4).join(":") : address;
}
