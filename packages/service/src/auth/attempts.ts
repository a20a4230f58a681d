/**
 * Slows down guesses at passwords. Each of these has a budget: a browser in which its member has signed in before, an account at one
 * address, an account at all addresses that are new to it, an address, and the network around it. After a few failures each further try has
 * to wait, twice as long each time, a minute at most: nobody is locked out. In a browser that is known nothing else counts. At an address where a member has signed in before, guesses from elsewhere and at unknown accounts do not count against
 * them. For a member with a second factor, guesses from elsewhere never count. Each try is counted before the password is looked at, so
 * that many at once are not free.
 */
import { RelayError } from "@bold-relay/core";

/** Failures that cost nothing. Behind one address there may be a whole office; an account is tried from many by one who guesses. */
const FREE = { pair: 4, account: 60, second: 8, address: 20, colleagues: 40, network: 100 } as const;
const LONGEST_MS = 60_000;
/** After so long without a failure all is forgotten. */
const FORGOTTEN_MS = 15 * 60_000;
const MOST_REMEMBERED = 50_000;

interface Failures {
  count: number;
  lastAt: number;
}

/** Whether a member is known where the sign-in comes from: by browser, by address, or not. */
export type Known = { readonly device: number } | "address" | null;

export type Step = "only" | "first" | "second";

interface Budget {
  readonly key: string;
  readonly free: number;
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
   * @param known "device": the member has signed in in this browser before, whose id it is · "address": from this address
   * @param step "only": a password that opens the account by itself · "first": one that does not · "second": what comes after it
   * @throws RelayError too-many-attempts with the seconds to wait
   */
  begin(account: string, address: string, known: Known, step: Step = "only"): { succeeded(): void } {
    const name = account.toLowerCase();
    // Nobody else has its cookie: what others try does not count there.
    if (known !== null && known !== "address")
      return this.beginWith({ key: `device ${known.device}`, free: FREE.pair }, []);
    const own = { key: `account ${name} at ${network(address)}`, free: FREE.pair };
    // Whoever is in the office may try all colleagues: they are known there.
    if (known === "address")
      return this.beginWith(own, [{ key: `colleagues at ${network(address)}`, free: FREE.colleagues }]);
    return this.beginWith(own, [
      ...(step === "only" ? [{ key: `account ${name}`, free: FREE.account }] : []),
      // Only who has the password gets there: a code has six digits.
      ...(step === "second" ? [{ key: `second factor of ${name}`, free: FREE.second }] : []),
      { key: `address ${network(address)}`, free: FREE.address },
      { key: `network ${around(address)}`, free: FREE.network },
    ]);
  }

  /**
   * The same for a member who is signed in: by the account only, since others at their address have done nothing.
   *
   * @param what is shown again: a code that is right says nothing of the password
   */
  beginSignedIn(memberId: number, what: "password" | "code" = "password"): { succeeded(): void } {
    return this.beginWith({ key: `${what} of member ${memberId}`, free: FREE.pair }, []);
  }

  /** @param shared budgets that others use too: a success of one's own takes back one's own try, and clears nobody else's failures */
  private beginWith(own: Budget, shared: readonly Budget[]): { succeeded(): void } {
    const all = [own, ...shared];
    const waitMs = Math.max(...all.map(({ key, free }) => this.waitOf(key, free)));
    if (waitMs > 0) throw new RelayError("too-many-attempts", { seconds: Math.ceil(waitMs / 1000) });
    for (const { key } of all) this.count(key);
    return {
      succeeded: () => {
        this.failures.delete(own.key);
        for (const { key } of shared) {
          const known = this.failures.get(key);
          if (known && known.count > 0) known.count -= 1;
        }
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

/** One caller has a whole /64 of IPv6 (RFC 6177). */
function network(address: string): string {
  return isVersion6(address) ? address.split(":").slice(0, 4).join(":") : address;
}

/** What one provider gives to one customer as a rule: a /48 of IPv6, a /24 of IPv4. */
function around(address: string): string {
  return isVersion6(address) ? address.split(":").slice(0, 3).join(":") : address.split(".").slice(0, 3).join(".");
}

function isVersion6(address: string): boolean {
  return address.includes(":") && !address.includes(".");
}
