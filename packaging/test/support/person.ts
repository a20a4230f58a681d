/** What somebody does in a browser who opens the one-time link of a new installation, by the calls that the console makes. */

export interface Person {
  call(method: string, address: string, body?: object, headers?: Record<string, string>): Promise<Response>;
}

const NAME = "Ines";
const PASSWORD = "four lanterns stand beside water";

/** Opens the link and becomes the first owner. @throws Error when the service says no */
export function becomeOwner(link: string): Promise<Person> {
  const { origin, hash } = new URL(link);
  return enter(origin, "/setup", { token: hash.slice(1), name: NAME, password: PASSWORD });
}

/** Signs in as a member. @throws Error when the service says no */
export function signIn(origin: string, member: { name: string; password: string }): Promise<Person> {
  return enter(origin, "/session", member);
}

async function enter(origin: string, address: string, body: object): Promise<Person> {
  const made = await fetch(`${origin}/api/v1${address}`, {
    method: "POST",
    headers: { "content-type": "application/json", origin },
    body: JSON.stringify(body),
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

/** A site with one board that has one lamp. */
export const SITE = {
  slug: "alder-row",
  name: "Alder Row",
  rooms: [
    {
      slug: "bench",
      name: "Bench",
      devices: [
        {
          slug: "bench-board",
          name: "bench board",
          profile: "new-device",
          channels: [{ slug: "lamp", name: "Bench lamp", kind: "light" }],
        },
      ],
    },
  ],
};
