/** What somebody does in a browser who opens the one-time link of a new installation, by the calls that the console makes. */

export interface Person {
  call(method: string, address: string, body?: object, headers?: Record<string, string>): Promise<Response>;
}

/** Opens the link and becomes the first owner. @throws Error when the service says no */
export async function becomeOwner(link: string): Promise<Person> {
  const { origin, hash } = new URL(link);
  const post = (address: string, body: object) =>
    fetch(`${origin}/api/v1${address}`, {
      method: "POST",
      headers: { "content-type": "application/json", origin },
      body: JSON.stringify(body),
    });
  const made = await post("/setup", {
    token: hash.slice(1),
    name: "Ines",
    password: "four lanterns stand beside water",
  });
  if (made.status !== 200) throw new Error(`${made.status}: ${await made.text()}`);
  const cookie = (made.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
  return {
    call: (method, address, body, headers = {}) =>
      fetch(`${origin}/api/v1${address}`, {
        method,
        headers: { cookie, origin, "content-type": "application/json", ...headers },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
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
