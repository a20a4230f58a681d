/** A world with two boards, an outside service that may be called, and the means to make inlets and to call them. */
import { randomBytes } from "node:crypto";
import type { InletReply } from "@bold-relay/api";
import type { InletDescription } from "@bold-relay/core";
import { type Outside, startOutside } from "./outside.ts";
import { channelNow, poll } from "./until.ts";
import { createWorld, type World } from "./world.ts";

type Draft = Omit<InletDescription, "site" | "name"> & { readonly name?: string };

export interface InletWorld {
  readonly world: World;
  readonly outside: Outside;
  /** Makes an inlet for the world's site, with a key. */
  make(draft: Draft): Promise<string>;
  /** Posts to /in/<path>; a text as it is, anything else as JSON. */
  post(
    path: string,
    key: string | null,
    body: unknown,
    headers?: Record<string, string>,
  ): Promise<{ status: number; headers: Headers; body: InletReply & Record<string, unknown> }>;
  /** What a channel is observed to be. */
  isNow(channel: string): Promise<unknown>;
  /** Resolves once the inlet is there for callers. */
  untilUp(slug: string): Promise<unknown>;
  stop(): Promise<void>;
}

/** @param consoleDir where the console is served from, if it is needed */
export async function createInletWorld(consoleDir?: string): Promise<InletWorld> {
  const outside = await startOutside();
  const world = await createWorld({
    ...(consoleDir === undefined ? {} : { consoleDir }),
    environment: { BOLD_RELAY_SECRETS_KEY: randomBytes(32).toString("base64"), BOLD_RELAY_MAY_CALL: outside.place },
  });
  await world.board("wren");
  await world.board("finch");
  return {
    world,
    outside,
    async make(draft) {
      await world.client.saveInlet({ name: `Inlet ${draft.slug}`, site: world.site, ...draft }, null);
      return (await world.client.addKey({ name: "test", inlet: draft.slug })).key;
    },
    async post(path, key, body, headers = {}) {
      const text = typeof body === "string" ? body : JSON.stringify(body);
      const type = typeof body === "string" ? "text/plain" : "application/json";
      const auth: Record<string, string> = key === null ? {} : { authorization: `Bearer ${key}` };
      const all = { "content-type": type, prefer: "wait=10", ...auth, ...headers };
      const response = await fetch(`${world.service.url}/in/${path}`, { method: "POST", body: text, headers: all });
      return { status: response.status, headers: response.headers, body: await response.json() };
    },
    isNow: async (channel) => (await channelNow(world.client, world.address(channel)))?.observed?.value,
    untilUp: (slug) =>
      poll(
        () => world.client.inlets(),
        (all) => all.find((one) => one.slug === slug)?.up === true,
      ),
    async stop() {
      await world.stop();
      await outside.stop();
    },
  };
}
