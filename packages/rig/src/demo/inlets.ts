/** The demo's ways to ask, with a key each; made where they are missing, so that what was changed of them stays. */
import { existsSync, readdirSync, readFileSync, writeFileSync } from "node:fs";
import { fileURLToPath } from "node:url";
import type { Client } from "@bold-relay/api";
import type { Kept } from "./secrets.ts";

type Described = Parameters<Client["saveInlet"]>[0];

const FOLDER = fileURLToPath(new URL("../../demo-data/inlets/", import.meta.url));

/** As their files describe them: ports and addresses are still to come. */
export function demoInlets(): Described[] {
  const files = readdirSync(FOLDER).sort();
  return files.map((file) => JSON.parse(readFileSync(FOLDER + file, "utf8")) as Described);
}

/** @param envFile shell file with the inlets' keys: CHAT_KEY and so on, by name */
export async function openInlets(
  client: Client,
  kept: Kept,
  envFile: string,
  say: (line: string) => void,
): Promise<void> {
  const known = new Set((await client.inlets()).map(({ slug }) => slug));
  // Keys of a database that is gone open nothing in a new one.
  const keys = known.has("booking") && existsSync(envFile) ? readFileSync(envFile, "utf8").trim().split("\n") : [];
  for (const inlet of demoInlets()) {
    if (known.has(inlet.slug)) {
      await follow(client, inlet.slug, placed(inlet, kept).settings ?? {});
      continue;
    }
    await client.saveInlet({ ...inlet, ...placed(inlet, kept) }, 0);
    if (inlet.kind === "topic" || inlet.kind === "device") continue;
    try {
      const { key } = await client.addKey({ name: "demo caller", inlet: inlet.slug });
      keys.push(`export ${inlet.slug.toUpperCase().replaceAll("-", "_")}_KEY=${key}`);
    } catch (error) {
      // The owner has changed the password.
      say(`The inlet ${inlet.slug} has no key: ${error instanceof Error ? error.message : String(error)}`);
    }
  }
  writeFileSync(envFile, `${keys.join("\n")}\n`, { mode: 0o600 });
}

/** Ports that were taken have moved since the last start: what points to the demo's own parts follows them. */
async function follow(client: Client, slug: string, own: NonNullable<Described["settings"]>): Promise<void> {
  const { version, inlet } = await client.inlet(slug);
  const settings: Record<string, unknown> = { ...inlet.settings };
  for (const [name, value] of Object.entries(own)) if (isOwn(settings[name])) settings[name] = value;
  if (JSON.stringify(settings) !== JSON.stringify(inlet.settings))
    await client.saveInlet({ ...inlet, settings } as Described, version);
}

/** Whether a setting can only point to a part of the demo: a port to listen on, or an address on this machine. */
function isOwn(value: unknown): boolean {
  return typeof value === "number" || (typeof value === "string" && value.startsWith("http://127.0.0.1:"));
}

/** Ports and addresses are the demo's to say. */
function placed({ kind, settings = {} }: Described, { ports }: Kept): Partial<Described> {
  const services = `http://127.0.0.1:${ports.services}`;
  if (kind === "line") return { settings: { ...settings, port: ports.desk } };
  if (kind === "chat") return { settings: { ...settings, replyUrl: `${services}/room` } };
  if (kind !== "sheet") return {};
  return { settings: { ...settings, url: `${services}/remote.csv`, writeUrl: `${services}/states.csv` } };
}
