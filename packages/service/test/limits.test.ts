/** Times, levels and steps: whoever asks, by whatever way, gets the same answer. One table drives all ways. */
import { type AskBody, ProblemError } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { describePlover, PLOVER, ploverProfiles } from "./support/plover.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;
let webKey: string;

/** What is asked in words, the same as a program asks it, and what comes of it: a refusal, or what goes out. */
const TABLE: readonly {
  readonly words: string;
  readonly body: Pick<AskBody, "action"> & Partial<AskBody>;
  readonly of: "dim" | "heat";
  readonly expected:
    | { readonly code: string; readonly says: RegExp }
    | { readonly to: number | string; readonly forMs?: number };
}[] = [
  {
    words: "heating on for 0 seconds",
    body: { action: "on", forMs: 0 },
    of: "heat",
    expected: { code: "time-out-of-range", says: /not 0 s/ },
  },
  {
    words: "heating on for -5 minutes",
    body: { action: "on", forMs: -300_000 },
    of: "heat",
    expected: { code: "time-out-of-range", says: /not -300 s/ },
  },
  {
    words: "heating on for 0.1 seconds",
    body: { action: "on", forMs: 100 },
    of: "heat",
    expected: { code: "time-out-of-range", says: /not 0.1 s/ },
  },
  {
    words: "heating on for 25 hours",
    body: { action: "on", forMs: 90_000_000 },
    of: "heat",
    expected: { code: "time-out-of-range", says: /not 90000 s/ },
  },
  {
    words: "heating on for 999999999 hours",
    body: { action: "on", forMs: 3_599_999_996_400_000 },
    of: "heat",
    expected: { code: "time-out-of-range", says: /from 0.2 s to 24 h/ },
  },
  {
    words: "heating on for 90.5 seconds",
    body: { action: "on", forMs: 90_500 },
    of: "heat",
    expected: { to: "on", forMs: 90_500 },
  },
  { words: "hall dimmer to -20", body: { action: "level", value: -20 }, of: "dim", expected: { to: 0 } },
  { words: "hall dimmer to 35.5", body: { action: "level", value: 35.5 }, of: "dim", expected: { to: 36 } },
  { words: "hall dimmer to 140", body: { action: "level", value: 140 }, of: "dim", expected: { to: 100 } },
  {
    words: "hall dimmer to 99999999999999",
    body: { action: "level", value: 99_999_999_999_999 },
    of: "dim",
    expected: { to: 100 },
  },
  {
    words: "hall dimmer brighter by 0",
    body: { action: "brighter", value: 0 },
    of: "dim",
    expected: { code: "bad-request", says: /a number from 1, not 0/ },
  },
  {
    words: "hall dimmer brighter by -5",
    body: { action: "brighter", value: -5 },
    of: "dim",
    expected: { code: "bad-request", says: /a number from 1, not -5/ },
  },
];

beforeAll(async () => {
  world = await createWorld({ describe: describePlover, profiles: ploverProfiles });
  await world.board("plover", PLOVER);
  await world.ask("plover/dim", "level", 20, { value: 50 });
  const make = async (inlet: Omit<InletDescription, "name" | "site">) => {
    await world.client.saveInlet({ name: inlet.slug, site: world.site, ...inlet } as InletDescription, null);
    return (await world.client.addKey({ name: "test", inlet: inlet.slug })).key;
  };
  webKey = await make({ slug: "l-web", kind: "web" });
  await make({ slug: "l-chat", kind: "chat", senders: ["*"] });
  await make({ slug: "l-call", kind: "call" });
  await make({
    slug: "l-hook",
    kind: "hook",
    routes: [{ when: { fields: { "/say": "{say}" } }, do: { phrase: "{say}" } }],
  });
  await make({
    slug: "l-topic",
    kind: "topic",
    routes: [{ when: { topic: `${world.site}-l/say` }, do: { phrase: "{payload}" } }],
  });
  const keys = Object.fromEntries(TABLE.map(({ words }, index) => [String(index + 1), { phrase: words }]));
  const [low, high] = [Object.entries(keys).slice(0, 9), Object.entries(keys).slice(9)];
  const more = {
    menu: { say: "more", keys: Object.fromEntries(high.map(([, one], index) => [String(index + 1), one])) },
  };
  await make({
    slug: "l-keypad",
    kind: "keypad",
    settings: { menu: { say: "x", keys: { ...Object.fromEntries(low), "0": more } } },
  });
});
afterAll(() => world.stop());

/** How it is asked in words. */
const spokenWays: Record<
  string,
  (words: string, place: number) => Promise<{ refusal: string | null; to: string | null; forMs: number | null }>
> = {
  chat: (text) => rehearsed("l-chat", { text, sender: "ana", room: "r" }),
  hook: (say) => rehearsed("l-hook", { fields: { say } }),
  topic: (text) => rehearsed("l-topic", { topic: `${world.site}-l/say`, text }),
  keypad: (_words, place) => rehearsed("l-keypad", { digits: place < 9 ? String(place + 1) : `0${place - 8}` }),
  "command line, and what members say": async (text) => firstOf(await world.client.rehearsePhrase(text)),
};

async function rehearsed(inlet: string, arrival: object) {
  return firstOf(await world.client.rehearse(inlet, { arrival }));
}

function firstOf({ asks }: Awaited<ReturnType<World["client"]["rehearsePhrase"]>>) {
  const [ask] = asks;
  return { refusal: ask?.refusal ?? null, to: ask?.sends[0]?.to ?? null, forMs: ask?.forMs ?? null };
}

describe.each(Object.entries(spokenWays))("in words, by %s", (_way, say) => {
  it.each(TABLE.map((row, place) => [row.words, row, place] as const))("%s", async (words, { expected }, place) => {
    const { refusal, to, forMs } = await say(words, place);
    if ("code" in expected) expect([refusal, to]).toEqual([expect.stringMatching(expected.says), null]);
    else expect([refusal, to]).toEqual([null, typeof expected.to === "number" ? `${expected.to} %` : expected.to]);
    if ("to" in expected) expect(forMs).toBe(expected.forMs ?? null);
  });
});

/** How programs ask it. */
const askedWays: Record<string, (body: AskBody) => Promise<{ to: unknown; forMs: unknown }>> = {
  "console, and bold-relay send": async (body) => {
    const [command] = (await world.client.ask(body, { waitS: 10 })).commands;
    return { to: command?.to, forMs: command?.forMs };
  },
  web: async (body) => {
    const response = await fetch(`${world.service.url}/in/l-web`, {
      method: "POST",
      headers: { authorization: `Bearer ${webKey}`, "content-type": "application/json", prefer: "wait=10" },
      body: JSON.stringify(body),
    });
    const answer = await response.json();
    if (!response.ok) throw new ProblemError(answer);
    return { to: answer.commands[0]?.to, forMs: answer.commands[0]?.forMs };
  },
};

describe.each(Object.entries(askedWays))("by %s", (_way, ask) => {
  it.each(TABLE.map((row) => [JSON.stringify(row.body), row] as const))(
    "%s",
    async (_about, { body, of, expected }) => {
      const asked = ask({ target: world.address(`plover/${of}`), ...body });
      if ("code" in expected) {
        const refused = await asked.then(
          () => null,
          (error: unknown) => error,
        );
        expect(refused).toBeInstanceOf(ProblemError);
        const { code, detail } = (refused as ProblemError).problem;
        expect([code, detail]).toEqual([expected.code, expect.stringMatching(expected.says)]);
      } else expect(await asked).toEqual({ to: expected.to, forMs: expected.forMs ?? null });
    },
  );

  it("a time between two milliseconds is the nearest", async () => {
    const asked = await ask({ target: world.address("plover/heat"), action: "on", forMs: 1_500.4 });
    expect(asked.forMs).toBe(1_500);
  });
});
