/** "Everything", in chat, in typed lines and on the command line: the same sixty phrases, the same channels. */
import { freePort } from "@bold-relay/rig";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { EVERYTHING, everythingSite } from "../../core/test/support/everything.ts";
import { createWorld, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld({ describe: (slug) => everythingSite(slug, "reporting") });
  const base = { site: world.site, name: "Everything" };
  await world.client.saveInlet({ ...base, slug: "e-chat", kind: "chat", senders: ["*"] }, null);
  await world.client.saveInlet({ ...base, slug: "e-line", kind: "line", settings: { port: await freePort() } }, null);
});
afterAll(() => world.stop());

const ways = {
  chat: (text: string) => world.client.rehearse("e-chat", { arrival: { text, sender: "ana", room: "r" } }),
  "typed lines": (text: string) => world.client.rehearse("e-line", { arrival: { text, sender: "ana" } }),
  // What `bold-relay say --rehearse` asks for.
  "the command line": (text: string) => world.client.rehearsePhrase(text),
};

/** The channels of each ask that would be sent, as the table has them. */
function inShort({ would, asks, reply }: Awaited<ReturnType<World["client"]["rehearsePhrase"]>>): string {
  if (asks.length > 0) {
    const slugs = (sends: (typeof asks)[number]["sends"]) =>
      sends.map(({ channel }) => channel.split("/").at(-1)).join(" ");
    return asks.map(({ action, sends }) => `${action} ${slugs(sends)}`).join(" + ");
  }
  return would === "answer" && /\(1\)/.test(reply) ? "which" : "nothing";
}

describe.each(Object.entries(ways))("in %s", (_way, rehearse) => {
  it.each(EVERYTHING)("%s → %s", async (phrase, expected) => {
    expect(inShort(await rehearse(phrase))).toBe(expected.startsWith("which") ? "which" : expected);
  });
});
