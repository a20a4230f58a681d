/** A member who is signed in, by the calls that the console makes. */

export interface Person {
  call(method: string, address: string, body?: object, headers?: Record<string, string>): Promise<Response>;
}

/** Signs in as a member. @throws Error when the service says no */
export async function signIn(origin: string, member: { name: string; password: string }): Promise<Person> {
  const made = await fetch(`${origin}/api/v1/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin },
    body: JSON.stringify(member),
  });
  if (made.status !== 200) throw new Error(`${made.status}: ${await made.text()}`);
  const cookie = (made.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
  return {
    call: (method, call, more, headers = {}) =>
      fetch(`${origin}/api/v1${call}`, {
        method,
        headers: { cookie, origin, "content-type": "application/json", ...headers },
        ...(more === undefined ? {} : { body: JSON.stringify(more) }),
      }),
  };
}
