/** A first description for each kind of inlet, and how a caller calls it: to be changed, and to be pasted. */
import type { Arrival, InletDescription, InletKind, Route } from "./model.ts";

/** One line for lists and forms. */
export const inletKindWords: Readonly<Record<InletKind, string>> = {
  web: "programs that name channel and action as JSON",
  hook: "events of another system, by their fields",
  call: "a cloud service that calls one action of one channel",
  chat: "people who write in a chat",
  topic: "messages on MQTT topics",
  line: "people and programs that type lines over TCP",
  sheet: "a spreadsheet that is looked at again and again",
  keypad: "telephones, by keys",
};

const PHRASES: Route = { name: "whatever is understood", when: { phrase: true }, do: { phrase: "{text}" } };

const MORE: Readonly<Record<InletKind, Pick<InletDescription, "routes" | "settings" | "senders" | "synonyms">>> = {
  web: {},
  hook: {
    routes: [
      {
        name: "guests arrive",
        when: { fields: { "/type": "arrived", "/cottage": "{cottage}" } },
        do: { phrase: "porch lantern in {cottage} on" },
      },
    ],
  },
  call: {},
  chat: { senders: ["porch-room/*"], synonyms: { lit: "on" }, routes: [PHRASES] },
  topic: {
    routes: [
      {
        name: "buttons",
        when: { topic: "buttons/{room}/{lamp}" },
        do: { target: "{room}/{lamp}", action: "{payload}", map: { payload: { table: { "1": "on", "0": "off" } } } },
      },
    ],
  },
  line: { settings: { port: 4_188 }, routes: [PHRASES] },
  sheet: { settings: { url: "http://127.0.0.1:4189/remote.csv", everyS: 10, form: "rows" } },
  keypad: {
    settings: {
      menu: {
        say: "Press one for lights on, two for lights off.",
        keys: { "1": { phrase: "porch lantern on" }, "2": { phrase: "porch lantern off" } },
      },
    },
  },
};

/** A description that has everything that its kind needs. */
export function exampleInlet(kind: InletKind, slug: string, name: string, site: string | null): InletDescription {
  return { slug, name, kind, site, ...MORE[kind] };
}

/** What to try it with first. */
export const exampleArrivals: Readonly<Record<InletKind, Partial<Arrival>>> = {
  web: { fields: { target: "porch lantern, wren", action: "on" } },
  hook: { fields: { type: "arrived", cottage: "wren" } },
  call: { fields: { target: "porch lantern, wren", argument: "on" } },
  chat: { text: "porch lantern in wren on", sender: "ana", room: "porch-room" },
  topic: { topic: "buttons/wren/porch", text: "1" },
  line: { text: "porch lantern in wren on" },
  sheet: { text: '"porch lantern wren" on' },
  keypad: { text: "porch lantern in wren on" },
};

/**
 * How a caller calls it, ready to paste; the key is left out.
 *
 * @param origin of the service, like http://127.0.0.1:4180
 * @param channel the address of some channel
 */
export function callerExample(
  { slug, kind, settings = {}, routes = [] }: InletDescription,
  origin: string,
  channel: string,
): string {
  const key = '-H "Authorization: Bearer $KEY"';
  const post = (path: string, type: string, body: string) =>
    `curl -X POST '${origin}/in/${path}' ${key} \\\n  -H 'Content-Type: ${type}' -H 'Prefer: wait=5' -d '${body}'`;
  const topic = routes.flatMap(({ when }) => ("topic" in when ? when.topic : []))[0] ?? "buttons/wren/porch";
  switch (kind) {
    case "web":
      return post(slug, "application/json", JSON.stringify({ target: channel, action: "on" }));
    case "hook":
      return post(slug, "application/json", JSON.stringify(exampleArrivals.hook.fields));
    case "call":
      return post(`${slug}/${channel}`, "text/plain", "on");
    case "chat":
      return post(
        slug,
        "application/json",
        JSON.stringify({ sender: "ana", room: "porch-room", text: "porch lantern in wren on" }),
      );
    case "topic":
      return `mosquitto_pub -q 1 -t '${topic.replace(/\{(\w+)\}/g, "$1")}' -m 1`;
    case "line":
      return `nc ${settings.host ?? "127.0.0.1"} ${settings.port}     # the key first, then: porch lantern in wren on`;
    case "sheet":
      return `curl ${key} '${origin}/in/${slug}/states.csv'     # and in the sheet: channel,want`;
    case "keypad":
      return post(slug, "application/json", JSON.stringify({ call: "1", digits: "1" }));
  }
}
