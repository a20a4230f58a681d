/** The description of the interface against the service: it has every call and no other, and answers are what it says. */
import { readFileSync } from "node:fs";
import { operations, otherOperations } from "@bold-relay/api/schema";
import { Ajv2020 } from "ajv/dist/2020.js";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { permissions } from "../src/http/permissions.ts";
import { createWorld, INLET, OWNER, type World } from "./support/world.ts";

const document = JSON.parse(readFileSync(new URL("../../api/openapi.json", import.meta.url), "utf8"));
const ajv = new Ajv2020({ strict: false });
ajv.addSchema(document, "interface");

let world: World;
/** What stands in the place of names in paths. */
let names: Record<string, string>;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
  const { id } = await world.ask("wren/porch", "on");
  await world.client.ask({ target: "no such lamp", action: "on" }).catch(() => {});
  await world.client.lockOut({ target: "wren/hall", reason: "hands" });
  const { notification } = await world.client.saveNotification(
    { slug: "desk", name: "Desk", site: null, on: { outcomes: ["delivered"] }, to: { topic: "desk/told" } },
    null,
  );
  names = {
    id,
    site: world.site,
    device: "wren",
    channel: "porch",
    slug: notification.slug,
    inlet: INLET,
    form: "csv",
    kind: "notification",
    version: "1",
  };
});
afterAll(() => world.stop());

it("has every call that the service answers, and no other", () => {
  const inApi = Object.keys(permissions).filter((name) => name !== "GET /metrics");
  expect(Object.keys(operations).sort()).toEqual(inApi.sort());
  expect(Object.keys(otherOperations)).toContain("GET /metrics");
});

/** Live streams never end, and what is not JSON has no schema. */
const looked = Object.entries<Record<string, unknown>>(document.paths).flatMap(([path, { get }]) => {
  const content = (get as { responses?: Record<string, { content?: object }> })?.responses?.["200"]?.content;
  return content && "application/json" in content ? [path] : [];
});

describe("an answer is what the description says", () => {
  it.each(looked)("GET %s", async (path) => {
    const slug = path.includes("/inlets/") ? INLET : (names.slug ?? "");
    const address = path.replace(/\{(\w+)\}/g, (_, name: string) => (name === "slug" ? slug : (names[name] ?? "")));
    // One's own account is no business of a key.
    const headers = path.endsWith("/account")
      ? { cookie: await cookieOf(OWNER) }
      : { authorization: `Bearer ${world.key}` };
    const response = await fetch(world.service.url + address, { headers });
    expect([address, response.status]).toEqual([address, 200]);
    expectValid(path, "get", 200, await response.json());
  });

  it("of asking, in full and in short, and when it is refused", async () => {
    const ask = (body: object, prefer: string) =>
      fetch(`${world.service.url}/api/v1/requests`, {
        method: "POST",
        headers: { authorization: `Bearer ${world.key}`, "content-type": "application/json", prefer },
        body: JSON.stringify(body),
      });
    const body = { target: "wren/porch", action: "off" };
    expectValid("/api/v1/requests", "post", 200, await (await ask(body, "wait=20")).json());
    expectValid("/api/v1/requests", "post", 200, await (await ask(body, "wait=20, return=minimal")).json());
    const refused = await ask({ target: "wren/porhc", action: "off" }, "wait=1");
    const check = ajv.getSchema("interface#/components/schemas/Problem");
    expect([refused.status, check?.(await refused.json()), check?.errors]).toEqual([422, true, null]);
  });
});

async function cookieOf(who: object): Promise<string> {
  const response = await fetch(`${world.service.url}/api/v1/session`, {
    method: "POST",
    headers: { "content-type": "application/json", origin: world.service.url },
    body: JSON.stringify(who),
  });
  return (response.headers.get("set-cookie") ?? "").split(";")[0] ?? "";
}

function expectValid(path: string, method: string, status: number, answer: unknown): void {
  const pointer = ["paths", path, method, "responses", String(status), "content", "application/json", "schema"];
  const check = ajv.getSchema(
    `interface#/${pointer.map((one) => encodeURIComponent(one.replaceAll("~", "~0").replaceAll("/", "~1"))).join("/")}`,
  );
  expect([path, check?.(answer), check?.errors ?? null]).toEqual([path, true, null]);
}
