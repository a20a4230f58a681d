/** A client of an owner's key that signs in by itself where a key is not enough: for programs that set things up. */
import { type Client, createClient } from "@bold-relay/api";

export interface OwnerAccess {
  readonly url: string;
  readonly key: string;
  readonly name: string;
  readonly password: string;
}

export function createOwnerClient({ url, key, name, password }: OwnerAccess): Client {
  return createClient({ baseUrl: url, key, signInAgain: () => signIn(url, name, password) });
}

/** Headers of a new session, which expires by itself; null: the password is not theirs. */
async function signIn(url: string, name: string, password: string): Promise<Record<string, string> | null> {
  const origin = new URL(url).origin;
  const answer = await fetch(`${url}/api/v1/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin },
    body: JSON.stringify({ name, password }),
  });
  const cookie = answer.headers.getSetCookie()[0]?.split(";")[0];
  return cookie === undefined ? null : { cookie, origin };
}
