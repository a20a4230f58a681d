/** Passkeys (Web Authentication, W3C): made and used on our own pages only, with the person verified by their device. */
import { RelayError } from "@bold-relay/core";
import type { AuthenticationResponseJSON, RegistrationResponseJSON } from "@simplewebauthn/server";
import type { PasskeyRecord } from "../store/accounts.ts";

/** At the first passkey: it reads certificates of all kinds, and takes 5 MB. */
const webAuthn = () => import("@simplewebauthn/server");

/** Whose pages: where the browser says that it is. */
export interface RelyingParty {
  /** "https://relay.example" */
  readonly origin: string;
  /** Its host name. */
  readonly id: string;
}

export function relyingParty(origin: string): RelyingParty {
  return { origin, id: new URL(origin).hostname };
}

export async function registrationOptions(
  { id: rpID }: RelyingParty,
  member: { readonly id: number; readonly name: string },
  known: readonly PasskeyRecord[],
) {
  const { generateRegistrationOptions } = await webAuthn();
  return generateRegistrationOptions({
    rpName: "Bold Relay",
    rpID,
    userName: member.name,
    userID: new TextEncoder().encode(`member ${member.id}`),
    attestationType: "none",
    excludeCredentials: known.map(({ id, transports }) => ({ id, transports: [...transports] })),
    authenticatorSelection: { residentKey: "required", userVerification: "required" },
  });
}

/** @throws RelayError wrong-second-factor */
export async function registeredPasskey(
  rp: RelyingParty,
  challenge: string,
  response: RegistrationResponseJSON,
): Promise<Pick<PasskeyRecord, "id" | "publicKey" | "counter" | "transports">> {
  const { verifyRegistrationResponse } = await webAuthn();
  const { registrationInfo } = await verified(() =>
    verifyRegistrationResponse({
      response,
      expectedChallenge: challenge,
      expectedOrigin: rp.origin,
      expectedRPID: rp.id,
      requireUserVerification: true,
    }),
  );
  if (!registrationInfo) throw new RelayError("wrong-second-factor");
  const { id, publicKey, counter, transports = [] } = registrationInfo.credential;
  return { id, publicKey: Buffer.from(publicKey), counter, transports };
}

/** @param known of one member, where it is known who signs in; empty: any that the device has for these pages */
export async function authenticationOptions({ id: rpID }: RelyingParty, known: readonly PasskeyRecord[]) {
  const allowed = known.map(({ id, transports }) => ({ id, transports: [...transports] }));
  const { generateAuthenticationOptions } = await webAuthn();
  return generateAuthenticationOptions({
    rpID,
    userVerification: "required",
    ...(allowed.length === 0 ? {} : { allowCredentials: allowed }),
  });
}

/**
 * @returns its counter now
 * @throws RelayError wrong-second-factor
 */
export async function usedPasskey(
  rp: RelyingParty,
  challenge: string,
  response: AuthenticationResponseJSON,
  { id, publicKey, counter, rpId }: PasskeyRecord,
): Promise<number> {
  if (rpId !== rp.id) throw new RelayError("wrong-second-factor");
  const { verifyAuthenticationResponse } = await webAuthn();
  const { authenticationInfo } = await verified(() =>
    verifyAuthenticationResponse({
      response,
      expectedChallenge: challenge,
      expectedOrigin: rp.origin,
      expectedRPID: rp.id,
      requireUserVerification: true,
      credential: { id, publicKey: new Uint8Array(publicKey), counter },
    }),
  );
  return authenticationInfo.newCounter;
}

async function verified<Result extends { verified: boolean }>(verify: () => Promise<Result>): Promise<Result> {
  try {
    const result = await verify();
    if (result.verified) return result;
  } catch (cause) {
    throw new RelayError("wrong-second-factor", {}, { cause });
  }
  throw new RelayError("wrong-second-factor");
}
