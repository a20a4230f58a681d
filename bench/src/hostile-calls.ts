/** Calls that are as big or as bad as the limits allow. */

export interface HostileCall {
  readonly name: string;
  readonly method: "GET" | "POST" | "PUT";
  readonly path: string;
  /** Of the how-manieth time it is made, from 0. */
  readonly body?: (turn: number) => string;
  readonly headers?: Readonly<Record<string, string>>;
  /** How many of it at the same time. Default 1. */
  readonly atOnce?: number;
}

export function hostileCalls(): HostileCall[] {
  const site = bigSite("big", 2_000);
  const wrong = bigSite("big", 2_000, { channel: { kind: "nonsense", number: -1 } });
  const own = {
    device: {
      topics: { do: "own/{device}/{channel}/do", done: "own/{device}/{channel}/done", is: "own/{device}/{channel}/is" },
    },
  };
  const inlet = bigInlet(70);
  const put = { method: "PUT", headers: { "if-match": "*" } } as const;
  const check = { method: "POST", path: "/api/v1/sites/big/check" } as const;
  return [
    { name: "check of a site, 10 000 channels", ...check, body: () => site },
    { name: "the same, four at once", ...check, body: () => site, atOnce: 4 },
    { name: "check of a site, everything wrong", ...check, body: () => wrong },
    {
      name: "site that is one long text",
      ...check,
      body: once(() => JSON.stringify({ slug: "big", name: "x".repeat(9_000_000) })),
    },
    { name: "site that is 9 MB of brackets", ...check, body: once(() => "[".repeat(9_000_000)) },
    {
      name: "site of 9 MB of empty rooms",
      ...check,
      body: once(() => `{"slug":"big","name":"Big","rooms":[${"{},".repeat(3_000_000)}{}]}`),
    },
    {
      name: "site of 10 000 channels, taken on and changed",
      ...put,
      path: "/api/v1/sites/big/description",
      body: renamed(site),
    },
    {
      name: "the same, each channel with topics of its own",
      ...put,
      path: "/api/v1/sites/big/description",
      body: renamed(bigSite("big", 2_000, own)),
    },
    {
      name: "inlet of 256 kB, rehearsed",
      method: "POST",
      path: "/api/v1/inlets/big/rehearse",
      body: once(() => `{"inlet":${inlet},"arrival":{"text":"x"}}`),
    },
    {
      name: "the same against 200 past arrivals",
      method: "POST",
      path: "/api/v1/inlets/bench/past",
      body: once(() => `{"inlet":${inlet},"most":200}`),
    },
    { name: "profile of 9 MB", method: "PUT", path: "/api/v1/profiles/big", body: once(bigProfile) },
    {
      name: "profile tried on 9 MB of messages",
      method: "POST",
      path: "/api/v1/profiles/try",
      body: once(manyMessages),
    },
    { name: "export of everything", method: "GET", path: "/api/v1/requests.csv" },
    {
      name: "a long name that is not there, ten at once",
      method: "POST",
      path: "/api/v1/requests/rehearse",
      body: () => JSON.stringify({ target: `relay 3 of 17 in 4, ${"long ".repeat(7)}lnog`, action: "on" }),
      atOnce: 10,
    },
    {
      name: "phrases of 500 letters, ten at once",
      method: "POST",
      path: "/api/v1/phrases",
      body: () => JSON.stringify({ text: "relay and ".repeat(49), rehearse: true }),
      atOnce: 10,
    },
    {
      name: "wrong passwords, twenty at once",
      method: "POST",
      path: "/api/v1/session",
      body: () => JSON.stringify({ name: "Ines", password: "x".repeat(200) }),
      atOnce: 20,
    },
  ];
}

/** Made when it is first used: together they are large. */
function once(make: () => string): () => string {
  let made: string | null = null;
  return () => {
    made ??= make();
    return made;
  };
}

/** Each time a little otherwise, so that there is something to take on. */
function renamed(site: string): (turn: number) => string {
  return (turn) => site.replace(/"name":"[^"]*"/, `"name":"Big ${turn}"`);
}

interface More {
  readonly device?: object;
  readonly channel?: object;
}

function bigSite(slug: string, devices: number, more: More = {}): string {
  const rooms = Array.from({ length: 20 }, (_, room) => ({
    slug: `room-${room}`,
    name: `Room ${room}`,
    devices: Array.from({ length: devices / 20 }, (_device, index) => ({
      slug: `device-${room}-${index}`,
      name: `board ${index} in room ${room} ${"of the big house ".repeat(4)}`.slice(0, 80),
      profile: "new-device",
      ...more.device,
      channels: Array.from({ length: 5 }, (_channel, place) => ({
        slug: `relay-${place}`,
        name: `Relay ${place} of ${index} in ${room}, ${"long ".repeat(8)}`.slice(0, 80).trim(),
        kind: "relay",
        delivery: { ackWithinMs: 2_000, attempts: 3, ttlMs: 30_000, settleMs: 3_000 },
        ...more.channel,
      })),
    })),
  }));
  return JSON.stringify({ slug, name: slug, rooms });
}

function bigInlet(routes: number): string {
  const made = Array.from({ length: routes }, (_, index) => ({
    when: { fields: { [`/a${index}`]: "x" } },
    do: {
      target: `{text} ${index}`,
      action: "on",
      map: { text: { table: Object.fromEntries(Array.from({ length: 200 }, (_one, at) => [`w${at}`, `v${at}`])) } },
    },
  }));
  return JSON.stringify({ slug: "big", name: "Big", kind: "hook", site: null, routes: made });
}

function bigProfile(): string {
  const words = Object.fromEntries(Array.from({ length: 300_000 }, (_, index) => [`word-${index}`, `value ${index}`]));
  return JSON.stringify({
    slug: "big",
    name: "Big",
    codec: { form: "text", do: "{value}", words },
    topics: { do: "a", done: null, is: null, here: null },
  });
}

function manyMessages(): string {
  const messages = Array.from({ length: 80_000 }, (_, index) => ({
    topic: `site/board/${index}/is`,
    text: `{"to":"on","by":"hand","id":"${index}"}`,
  }));
  return JSON.stringify({
    profile: "new-device",
    device: { slug: "board", channels: [{ slug: "0", name: "A", kind: "relay" }] },
    messages,
  });
}
