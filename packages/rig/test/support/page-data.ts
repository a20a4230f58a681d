/** Holds the YAML and JSON of pages against its schema, and against the running service. */
import { readFileSync } from "node:fs";
import type { Client } from "@bold-relay/api";
import type { InletDescription, NotificationDescription, Profile, SiteDescription } from "@bold-relay/core";
import { checkPlan } from "@bold-relay/translators";
import { Ajv2020 } from "ajv/dist/2020.js";
import { parse } from "yaml";
import type { Block } from "./document.ts";

type Data = Record<string, unknown>;

const SCHEMAS = new URL("../../../../docs/schemas/", import.meta.url);
const ajv = new Ajv2020({ strict: false, allowUnionTypes: true, validateFormats: false });
const schemas = new Map(
  ["site", "profile", "inlet", "notification", "setup"].map((kind) => [
    kind,
    ajv.compile(JSON.parse(readFileSync(new URL(`${kind}.schema.json`, SCHEMAS), "utf8")) as object),
  ]),
);

/** What a part is laid over, so that it is a whole. */
const WHOLE: Readonly<Record<string, Data>> = {
  site: { slug: "part", name: "Part", rooms: [] },
  inlet: { slug: "part", name: "Part", kind: "hook", site: null },
  notification: { slug: "part", name: "Part", site: null, on: { alerts: true }, to: { topic: "part/events" } },
  translators: {
    broker: { url: "mqtt://127.0.0.1:1883" },
    devices: [],
  },
  profile: {
    slug: "part",
    name: "Part",
    topics: {
      do: "part/{device}/{channel}/do",
      done: "part/{device}/{channel}/done",
      is: "part/{device}/{channel}/is",
      here: "part/{device}/here",
    },
    codec: "word",
  },
};

/** @throws Error that says what is wrong with it */
export async function checkData({ place, about, text }: Block, client: Client): Promise<void> {
  const [kind = "", part] = about.split(" ");
  const data = part === undefined ? (parse(text) as Data) : whole(kind, parse(text) as Data);
  const schema = schemas.get(kind);
  if (schema !== undefined && !schema(data)) throw new Error(`${place}: ${ajv.errorsText(schema.errors)}`);
  const check = CHECKS[kind];
  if (check === undefined) throw new Error(`${place}: nothing checks “${kind}”`);
  await check(client, data);
}

const DEVICE = { slug: "board", channels: [{ slug: "one", name: "One", kind: "light" }] } as const;

function whole(kind: string, part: Data): Data {
  if (kind !== "translators") return { ...WHOLE[kind], ...part };
  const channels = [{ slug: "one", kind: part.reach && "lamps" in (part.reach as Data) ? "lamps" : "relay" }];
  const device = { site: "part", device: "one", username: "one", password: "change-me", channels };
  return { ...WHOLE[kind], devices: [{ ...device, ...part }] };
}

/** The service's own word on each kind of document, which it has to check itself: what stands in a page may be anything. */
const CHECKS: Readonly<Record<string, (client: Client, data: unknown) => Promise<unknown>>> = {
  site: async (client, data) => {
    const { findings } = await client.checkSite(data as SiteDescription);
    const errors = findings.filter(({ level }) => level === "wrong");
    if (errors.length > 0) throw new Error(JSON.stringify(errors));
  },
  profile: (client, data) => client.tryProfile({ profile: data as Profile, device: DEVICE }),
  inlet: (client, data) => {
    const inlet = data as InletDescription;
    return client.rehearse(inlet.slug, { inlet, arrival: { text: "help" } });
  },
  notification: async (client, data) => {
    const notification = data as NotificationDescription;
    await client.saveNotification(notification, null);
    await client.removeNotification(notification.slug);
  },
  command: async (client, sample) => {
    const { writes } = await client.tryProfile({ profile: "new-device", device: DEVICE });
    const written = Object.keys(JSON.parse(writes[0]?.payload ?? "{}") as Data);
    const missing = written.filter((field) => !(field in (sample as Data)));
    if (missing.length > 0) throw new Error(`a command has ${missing} too`);
  },
  translators: async (_client, plan) => void checkPlan(plan),
  // The server program reads it with this schema and nothing else, before it looks at the files that it names.
  setup: async () => {},
};
