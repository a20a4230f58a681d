/** Who calls, what they may do, and the check that every change of something of a site must pass. */
import { CLI_AGENT } from "@bold-relay/api";
import type { RecentSignIn } from "@bold-relay/api/schema";
import {
  type Asker,
  type KeyLimits,
  limitedStanding,
  RelayError,
  type Right,
  type Standing,
  sitesWith,
} from "@bold-relay/core";
import { limits } from "../platform/config/limits.ts";
import type { Identity } from "../store/identities.ts";
import type { SiteCheck } from "../store/site-check.ts";

export interface Caller {
  readonly memberId: number;
  readonly name: string;
  readonly by: "session" | "key";
  /** How a call of theirs is recorded: from the console, from our command line, or from another program. */
  readonly way: "board" | "command line" | "API";
  /** With everything that limits a key. */
  readonly standing: Standing;
  /** null: a session. */
  readonly keyId: number | null;
  readonly limits: KeyLimits;
  /** Their role needs a second factor, and they have none so far: until then they may do nothing else. */
  readonly mustEnrol: boolean;
  readonly isRecent: boolean;
  readonly hasSecondFactor: boolean;
  readonly mayExport: boolean;
  /** Of the token that was shown. */
  readonly tokenSha256: Buffer;
  /** Where the call came from, for the audit log; null: not known. */
  readonly address: string | null;
}

/** A caller who has a right, and where. */
export interface Admitted extends Caller {
  /** Aborts when the caller's connection has ended before the answer; left out: nobody looks. */
  readonly gone?: AbortSignal;
  /** The sites at which the caller has it; null: every site. */
  readonly sites: readonly string[] | null;
  readonly asker: Asker;
}

/** @param agent User-Agent of the call (RFC 9110, 10.1.5). It decides only how the call is recorded. */
export function callerOf(
  { standing, ...identity }: Identity,
  { address, agent }: { address: string | null; agent: string | undefined },
): Caller {
  const by = identity.keyId === null ? "session" : "key";
  const way = agent?.startsWith(CLI_AGENT) ? "command line" : by === "session" ? "board" : "API";
  return { ...identity, by, way, standing: limitedStanding(standing, identity.limits), address };
}

/** @throws RelayError not-permitted when the caller has this right nowhere */
export function admit(caller: Caller, right: Right): Admitted {
  if (caller.mustEnrol) throw new RelayError("second-factor-required");
  const sites = sitesWith(caller.standing, right);
  if (sites?.length === 0) throw new RelayError("not-permitted", { why: `${caller.name} ${LACKS[right]}` });
  return { ...caller, sites, asker: memberAsker(caller, sites) };
}

/** A caller who need not have any right. */
export function admitMember(caller: Caller): Admitted {
  return { ...caller, sites: [], asker: memberAsker(caller, []) };
}

function memberAsker({ way, name, memberId, keyId, tokenSha256 }: Caller, sites: Asker["sites"]): Asker {
  const asker = { requester: "member", memberId, inlet: way, name, sites, keyId } as const;
  return keyId === null ? { ...asker, session: tokenSha256.toString("base64") } : asker;
}

/** @throws RelayError recent-sign-in-required unless the caller has shown who they are as lately as the call needs it */
export function requireRecent({ isRecent, by, hasSecondFactor, mayExport }: Caller, needed: RecentSignIn | null): void {
  if (needed === null || isRecent) return;
  if (needed === "with-second-factor" && by === "session" && !hasSecondFactor) return;
  if (needed === "or-export-key" && mayExport) return;
  throw new RelayError("recent-sign-in-required", { minutes: limits.recentSignInMs / 60_000 });
}

const LACKS: Record<Right, string> = {
  see: "has no role at any site. An owner of the team can give one",
  switch: "may not switch anything: it takes a user of the site",
  operate: "may not do this: it takes an operator of the site",
  build: "may not do this: it takes an engineer of the site",
  govern: "may not do this: it takes an owner of the team",
};

/** @param what "The inlet hall-tablet" */
export function siteCheck({ name, sites }: Admitted, what: string): SiteCheck {
  const isTheirs = (site: string | null) => sites === null || (site !== null && sites.includes(site));
  return {
    stored(site) {
      if (!isTheirs(site)) throw new RelayError("not-found", { what });
    },
    wanted(site) {
      if (isTheirs(site)) return;
      const where = site === null ? "for every site: name one of theirs" : `at ${site}`;
      throw new RelayError("not-permitted", { why: `${name} may not do this ${where}` });
    },
  };
}

/** @throws RelayError not-permitted unless the site is one of theirs */
export function requireSite({ name, sites }: Admitted, site: string): void {
  if (sites === null || sites.includes(site)) return;
  throw new RelayError("not-permitted", { why: `${name} may not do this at ${site}` });
}

/** @throws RelayError not-permitted for who has the right at some sites only */
export function requireTeam({ name, sites }: Admitted, what: string): void {
  if (sites !== null)
    throw new RelayError("not-permitted", { why: `${name} may not ${what}: it takes an engineer of the team` });
}

/** @throws RelayError not-permitted for a key: what is about the account itself takes its member */
export function requireSession({ by, name }: Caller): void {
  if (by !== "session")
    throw new RelayError("not-permitted", { why: `A key of ${name} may not do this: sign in at the console` });
}
