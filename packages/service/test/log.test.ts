/** The journal's list: every filter alone and together, page after page, and as a file. */
import type { LogQuery, RequestView } from "@bold-relay/api";
import { afterAll, beforeAll, describe, expect, it } from "vitest";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;
/** What was asked, oldest first, with how it ended. */
const asked: { id: string; kind: string; channel: string | null; asker: string }[] = [];

beforeAll(async () => {
  world = await createWorld({ delivery: { ackWithinMs: 20_000 } });
  await world.board("wren");
  const finch = await world.board("finch");
  await finch.setFault("refusing");
  await world.board("dunlin", { reports: false });
  for (let turn = 0; turn < 3; turn += 1) {
    await note("delivered", world.ask("wren/porch", "on"));
    await note("not-delivered", world.ask("finch/porch", "on"));
    await note("delivered", viaInlet("wren hall light", '=Guest ("book")'));
    await note("refused", viaInlet("no such lamp", "Plover guest").catch(refusedRequest));
  }
  await finch.setFault("silent");
  await note("replaced", world.client.ask({ target: "finch/hall", action: "on" }));
  await note("open", world.client.ask({ target: "finch/hall", action: "off" }, { waitS: 0 }));
  await finch.setFault("none");
});
afterAll(() => world.stop());

async function note(kind: string, request: Promise<RequestView>): Promise<void> {
  const { id, commands, asker } = await request;
  asked.push({ id, kind, channel: commands[0]?.channel ?? null, asker });
}

/** Rejects with the id of the journaled request when it was refused. */
async function viaInlet(target: string, sender: string): Promise<RequestView> {
  const response = await fetch(`${world.service.url}/in/${INLET}`, {
    method: "POST",
    headers: { authorization: `Bearer ${world.inletKey}`, "content-type": "application/json", prefer: "wait=20" },
    body: JSON.stringify({ target, action: "on", sender }),
  });
  const body = await response.json();
  if (!response.ok) throw Object.assign(new Error(body.detail), { request: body.request });
  return body;
}

function refusedRequest(error: Error & { request?: string }): Promise<RequestView> {
  return world.client.request(error.request ?? "");
}

async function ids(query: LogQuery): Promise<string[]> {
  return (await world.client.log(query)).requests.map((request) => request.id);
}

/** Newest first, as the list is. */
function expected(isWanted: (one: (typeof asked)[number]) => boolean): string[] {
  return asked
    .filter(isWanted)
    .map((one) => one.id)
    .reverse();
}

describe("filters", () => {
  // The board answered the replaced one first: at the time of asking, the order in which both end is open.
  const isOpenOrReplaced = (kind: string) => kind === "replaced" || kind === "open";

  it("none: everything, newest first", async () => {
    expect(await ids({})).toEqual(expected(() => true));
  });

  it.each(["delivered", "not-delivered", "refused"] as const)("result %s", async (result) => {
    const found = await ids({ result });
    expect(found).toEqual(expect.arrayContaining(expected((one) => one.kind === result)));
    const others = expected((one) => one.kind !== result && !isOpenOrReplaced(one.kind));
    expect(found.filter((id) => others.includes(id))).toEqual([]);
  });

  it("a channel, open commands included", async () => {
    const channel = world.address("finch/hall");
    expect(await ids({ channel })).toEqual(expected((one) => one.channel === channel));
    expect(await ids({ channel: "finch hall light", result: "not-delivered" })).toEqual([]);
    await expect(ids({ channel: "nothing" })).rejects.toMatchObject({ problem: { code: "not-found" } });
  });

  it("an asker, capitals or not", async () => {
    expect(await ids({ asker: "plover GUEST" })).toEqual(expected((one) => one.asker === "Plover guest"));
  });

  it("words: of the asker, the request, the channel's names; percent signs are only percent signs", async () => {
    expect(await ids({ words: "guest" })).toEqual(expected((one) => /guest/i.test(one.asker)));
    expect(await ids({ words: "such lamp" })).toEqual(expected((one) => one.kind === "refused"));
    expect(await ids({ words: "FINCH porch" })).toEqual(
      expected((one) => one.channel === world.address("finch/porch")),
    );
    expect(await ids({ words: "%%" })).toEqual([]);
  });

  it("together they narrow", async () => {
    expect(await ids({ words: "finch", result: "not-delivered", asker: "Ines" })).toEqual(
      expected((one) => one.channel === world.address("finch/porch")),
    );
  });

  it("what cannot be a filter is refused with its name", async () => {
    const response = await fetch(`${world.service.url}/api/v1/requests?colour=red&limit=0`, {
      headers: { authorization: `Bearer ${world.key}` },
    });
    expect(response.status).toBe(400);
    expect((await response.json()).detail).toMatch(/“limit”.*“colour”|“colour”.*“limit”/);
  });
});

describe("pages", () => {
  it.each([{}, { channel: "wren/porch" }, { result: "not-delivered" as const }, { words: "wren" }])(
    "%j one by one are the same as at once",
    async (query) => {
      const whole = await ids(query);
      const walked: string[] = [];
      let before: string | undefined;
      do {
        const page = await world.client.log({ ...query, limit: 1, ...(before ? { before } : {}) });
        walked.push(...page.requests.map((request) => request.id));
        before = page.next ?? undefined;
      } while (before);
      expect(walked).toEqual(whole);
    },
  );
});

describe("files", () => {
  const file = async (form: string) => {
    const { key } = await world.client.addKey({ name: "export", exports: true });
    const headers = { authorization: `Bearer ${key}` };
    return (await fetch(`${world.service.url}/api/v1/requests.${form}`, { headers })).text();
  };

  it("CSV: one row a request, and nothing in it is a formula", async () => {
    const text = await file("csv");
    expect(text.split("\n")[0]).toContain("at,request,requester,inlet,asker");
    expect(text).toContain(`"'=Guest (""book"")"`);
    expect(text).not.toMatch(/(^|,)"?=/m);
  });

  it("JSON Lines: the same requests as the list", async () => {
    const lines = (await file("jsonl")).trim().split("\n");
    expect(lines.map((line) => JSON.parse(line).id)).toEqual(await ids({}));
  });
});
