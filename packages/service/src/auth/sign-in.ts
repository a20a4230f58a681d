/**
 * Signing in: name and password, then the second factor where there is one; or a passkey, which is both. Each failure is slowed
 * down and on record; what is told of it never says whether the name or the password was wrong.
 */

import { type AuditAction, RelayError } from "@bold-relay/core";
import type { AuthenticationResponseJSON } from "@simplewebauthn/server";
import { limits } from "../platform/config/limits.ts";
import {
  findDevice,
  findPasskey,
  findSecondFactor,
  isKnownAddress,
  notePasskeyUse,
  rememberAddress,
  rememberDevice,
  type SecondFactor,
  takeRecoveryCode,
  takeTotpStep,
} from "../store/accounts.ts";
import { findMember, findMemberById, type MemberRecord, openSession } from "../store/identities.ts";
import type { Pool } from "../store/pool.ts";
import { Attempts, type Known, type Step } from "./attempts.ts";
import { type AuditLog, unknownCaller } from "./audit-log.ts";
import { authenticationOptions, type RelyingParty, usedPasskey } from "./passkeys.ts";
import { passwordMatches } from "./password.ts";
import { unsealed } from "./seal.ts";
import { recoveryHash, totpStep } from "./second-factor.ts";
import { Tickets } from "./tickets.ts";
import { newSessionToken, sha256 } from "./token.ts";

/** Where a sign-in comes from. */
export interface Client {
  readonly address: string;
  readonly agent: string | null;
  /** Of the cookie by which this browser is known; null: it has none. */
  readonly deviceToken: string | null;
  readonly rp: RelyingParty;
}

export interface SignInDeps {
  readonly pool: Pool;
  readonly audit: AuditLog;
  readonly secretsKey: Buffer | undefined;
}

export interface SignedIn {
  readonly token: string;
  /** By which this browser is known from now on. */
  readonly deviceToken: string;
  readonly member: Pick<MemberRecord, "id" | "name">;
}

export interface AskedSecond {
  readonly ticket: string;
  readonly app: boolean;
  readonly passkey: object | null;
}

interface Waiting {
  readonly member: Pick<MemberRecord, "id" | "name">;
  readonly challenge: string | null;
}

/** What proves the second factor: one of them. */
export interface SecondProof {
  readonly code?: string;
  readonly recoveryCode?: string;
  readonly passkey?: object;
}

const TRIES = 5;
const LONGEST_AGENT = 200;

export class SignIn {
  private readonly deps: SignInDeps;
  private readonly attempts = new Attempts();
  private readonly waiting = new Tickets<Waiting>(TRIES);
  private readonly challenges = new Tickets<string>(1);

  constructor(deps: SignInDeps) {
    this.deps = deps;
  }

  /** @throws RelayError wrong-password, too-many-attempts or service-busy */
  async withPassword(name: string, password: string, client: Client): Promise<SignedIn | AskedSecond> {
    const { pool } = this.deps;
    const member = await findMember(pool, name);
    const known = member && (await this.knownAt(member.id, client));
    const second = member && (await findSecondFactor(pool, member.id));
    const hasSecond = second !== null && (second.totpSecret !== null || second.passkeys.length > 0);
    const step = hasSecond ? "first" : "only";
    const attempt = this.begin(name, client, known, step, member?.name ?? cut(name));
    const matches = await passwordMatches(member?.passwordHash ?? null, password);
    if (!member || !second || !matches)
      throw this.failed(member?.name ?? cut(name), client, "sign-in failed", new RelayError("wrong-password"));
    const keys = second.passkeys.filter(({ rpId }) => rpId === client.rp.id);
    if (!hasSecond) {
      attempt.succeeded();
      return this.open(member, client, "password");
    }
    const options = keys.length === 0 ? null : await authenticationOptions(client.rp, keys);
    const ticket = this.waiting.put({ member, challenge: options?.challenge ?? null });
    // The right password alone does not clear what was counted: the code could be guessed with many tickets.
    return { ticket, app: second.totpSecret !== null, passkey: options };
  }

  /** @throws RelayError sign-in-over, wrong-second-factor or too-many-attempts */
  async withSecond(ticket: string, proof: SecondProof, client: Client): Promise<SignedIn> {
    const waiting = this.waiting.take(ticket);
    if (!waiting) throw new RelayError("sign-in-over");
    const { member, challenge } = waiting;
    // Counted under the key of the password's step, so that success clears both.
    const known = await this.knownAt(member.id, client);
    const attempt = this.begin(member.name, client, known, "second", member.name);
    const second = await findSecondFactor(this.deps.pool, member.id);
    const how = await this.provenBy(member.id, proof, second, challenge, client);
    if (how === null)
      throw this.failed(member.name, client, "second factor failed", new RelayError("wrong-second-factor"));
    this.waiting.drop(ticket);
    attempt.succeeded();
    return this.open(member, client, how);
  }

  /** What a browser needs to offer the passkeys that it has for these pages. */
  async passkeyOptions({ rp }: Client): Promise<{ ticket: string; options: object }> {
    const options = await authenticationOptions(rp, []);
    return { ticket: this.challenges.put(options.challenge), options };
  }

  /** @throws RelayError sign-in-over or wrong-second-factor */
  async withPasskey(ticket: string, response: object, client: Client): Promise<SignedIn> {
    const challenge = this.challenges.take(ticket);
    if (challenge === null) throw new RelayError("sign-in-over");
    const answer = response as AuthenticationResponseJSON;
    const key = typeof answer.id === "string" ? await findPasskey(this.deps.pool, answer.id) : null;
    const member = key && (await findMemberById(this.deps.pool, key.memberId));
    const shown = member?.name ?? "an unknown account";
    const attempt = this.begin(`passkey ${key?.id ?? ""}`, client, null, "only", shown);
    if (!key || !member) throw this.failed(shown, client, "passkey failed", new RelayError("wrong-second-factor"));
    const counter = await usedPasskey(client.rp, challenge, answer, key).catch((error: unknown) => {
      throw error instanceof RelayError ? this.failed(member.name, client, "passkey failed", error) : error;
    });
    await notePasskeyUse(this.deps.pool, key.id, counter);
    attempt.succeeded();
    return this.open(member, client, "passkey");
  }

  /** How it was proven, in words; null: it was not. */
  private async provenBy(
    memberId: number,
    { code, recoveryCode, passkey }: SecondProof,
    second: SecondFactor,
    challenge: string | null,
    { rp }: Client,
  ): Promise<string | null> {
    const { pool, secretsKey } = this.deps;
    if (code !== undefined) {
      const secret = second.totpSecret === null ? null : unsealed(second.totpSecret, secretsKey);
      const step = secret === null ? null : await totpStep(secret, code.replace(/\s/g, ""));
      return step !== null && (await takeTotpStep(pool, memberId, step)) ? "password and code" : null;
    }
    if (recoveryCode !== undefined)
      return (await takeRecoveryCode(pool, memberId, recoveryHash(recoveryCode))) ? "password and recovery code" : null;
    const answer = passkey as AuthenticationResponseJSON | undefined;
    const key = second.passkeys.find(({ id }) => id === answer?.id);
    if (!key || !answer || challenge === null) return null;
    try {
      await notePasskeyUse(pool, key.id, await usedPasskey(rp, challenge, answer, key));
      return "password and passkey";
    } catch (error) {
      if (error instanceof RelayError) return null;
      throw error;
    }
  }

  /** Opens a session. @param proof how they proved who they are, in words */
  async open(member: SignedIn["member"], client: Client, proof: string): Promise<SignedIn> {
    const { address, agent } = client;
    const { pool, audit } = this.deps;
    const token = newSessionToken();
    await openSession(pool, {
      tokenSha256: sha256(token),
      memberId: member.id,
      livesMs: limits.sessionMs,
      address,
      agent: agent?.slice(0, LONGEST_AGENT) ?? null,
      proof,
      secondFactor: proof !== "password" && proof !== "set-up link",
    });
    await rememberAddress(pool, member.id, address);
    const deviceToken = newSessionToken();
    const before = client.deviceToken === null ? null : sha256(client.deviceToken);
    await rememberDevice(pool, member.id, before, sha256(deviceToken));
    const actor = { name: member.name, memberId: member.id, keyId: null, address };
    await audit.record({ actor, action: "signed in", object: member.name, after: { proof } });
    return { token, deviceToken, member };
  }

  /** Counts a try. One that must wait is in the audit log. @param shown the account as it stands there */
  private begin(account: string, { address }: Client, known: Known, step: Step, shown: string) {
    try {
      return this.attempts.begin(account, address, known, step);
    } catch (error) {
      this.deps.audit.recordRefusal(unknownCaller(address), "sign-in slowed down", shown);
      throw error;
    }
  }

  private async knownAt(memberId: number, { address, deviceToken }: Client): Promise<Known> {
    const { pool } = this.deps;
    const device = deviceToken === null ? null : await findDevice(pool, memberId, sha256(deviceToken));
    if (device !== null) return { device };
    return (await isKnownAddress(pool, memberId, address)) ? "address" : null;
  }

  private failed(name: string, { address }: Client, action: AuditAction, error: RelayError): RelayError {
    this.deps.audit.recordRefusal(unknownCaller(address), action, name);
    return error;
  }
}

/** A name that nobody has is often a password in the wrong field. @example cut("correct horse") // → "co…, a name that nobody has" */
function cut(name: string): string {
  return `${[...name].slice(0, 2).join("")}…, a name that nobody has`;
}
