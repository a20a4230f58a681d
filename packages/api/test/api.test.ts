/** What client and server agree on: what the schemas take and refuse, and how the client tells what went wrong. */
import { createServer, type RequestListener, type Server } from "node:http";
import type { AddressInfo } from "node:net";
import { afterEach, describe, expect, it } from "vitest";
import { createClient, ProblemError, queryText, UnreachableError } from "../src/index.ts";
import { askSchema, inletAskSchema, logQuerySchema, profileSchema, siteSchema } from "../src/schema/index.ts";

const mistakes = (
  schema: { validate(input: unknown, options?: object): { error?: { details: { message: string }[] } | undefined } },
  input: unknown,
) => schema.validate(input, { abortEarly: false }).error?.details.map((one) => one.message) ?? [];

describe("an ask", () => {
  it("takes a target, an action, and a stage below which it will not be answered", () => {
    expect(mistakes(askSchema, { target: "Porch lantern, Wren", action: "on", until: "acknowledged" })).toEqual([]);
    expect(mistakes(inletAskSchema, { target: "x", action: "on", sender: "Gäste-Buch №1" })).toEqual([]);
  });

  it.each([
    [{}, 2],
    [{ target: "", action: "on" }, 1],
    [{ target: "x", action: "on", until: "accepted" }, 1],
    [{ target: "x", action: "on", sender: "only at inlets" }, 1],
    [{ target: "line\nbreak", action: "on" }, 1],
    [{ target: "bidi \u202e trick", action: "on" }, 1],
    [{ target: "\ud800", action: "on" }, 1],
    [{ target: 5, action: true }, 2],
    [null, 1],
    [undefined, 1],
  ])("%j has %d mistakes", (body, count) => {
    expect(mistakes(askSchema, body)).toHaveLength(count);
  });
});

describe("a delivery query", () => {
  it("reads numbers from text, and refuses what is no filter", () => {
    expect(logQuerySchema.validate({ limit: "5" }).value).toEqual({ limit: 5 });
    for (const query of [
      { limit: "0" },
      { limit: "201" },
      { limit: "5.5" },
      { before: "7" },
      { result: "well" },
      { words: "x" },
      { from: "x" },
    ]) {
      expect(mistakes(logQuerySchema, query)).toHaveLength(1);
    }
  });

  it("is written without what is not given", () => {
    expect(queryText({ limit: 5, words: "a b&c" })).toBe("?limit=5&words=a+b%26c");
    expect(queryText({ words: "" })).toBe("");
  });
});

describe("a profile", () => {
  const topics = { do: "{site}/{device}/{channel}/do", done: null, is: null, here: "{site}/{device}/here" };
  const profile = (more: object) => ({ slug: "p", name: "P", codec: "json", topics, delivery: {}, ...more });

  it("is data; a device without reports or acknowledgements says so by null", () => {
    expect(mistakes(profileSchema, profile({ delivery: { targetStage: "published", attempts: 1 } }))).toEqual([]);
  });

  it.each([
    ["a wildcard", { topics: { ...topics, do: "{site}/+/{device}/{channel}" } }],
    ["an unknown hole in a topic", { topics: { ...topics, here: "{site}/{room}/here" } }],
    ["a control character in a topic", { topics: { ...topics, here: "a\u0000b" } }],
    ["a topic of the broker's own", { topics: { ...topics, here: "$SYS/{site}/{device}" } }],
    ["an unknown codec", { codec: "telepathy" }],
    ["a time that is none", { delivery: { ackWithinMs: 0 } }],
    ["too many attempts", { delivery: { attempts: 11 } }],
    ["a target stage that is no proof", { delivery: { targetStage: "accepted" } }],
  ])("with %s is refused", (_title, more) => {
    expect(mistakes(profileSchema, profile(more))).toHaveLength(1);
  });
});

describe("a site", () => {
  const channel = { slug: "lamp", name: "Lamp", kind: "light" };
  const device = { slug: "board", name: "board", profile: "p", channels: [channel] };
  const site = (devices: object[]) => ({ slug: "s", name: "S", rooms: [{ slug: "r", name: "R", devices }] });

  it.each([
    ["two channels of one name in a device", [{ ...device, channels: [channel, channel] }]],
    ["two devices of one name", [device, device]],
    ["a device without channels", [{ ...device, channels: [] }]],
    ["a kind that nobody knows", [{ ...device, channels: [{ ...channel, kind: "toaster" }] }]],
    ["capitals in a slug", [{ ...device, slug: "Board" }]],
    ["a slash in a slug", [{ ...device, slug: "a/b" }]],
  ])("with %s is refused", (_title, devices) => {
    expect(mistakes(siteSchema, site(devices))).toHaveLength(1);
  });

  it("is taken when it is right", () => {
    expect(mistakes(siteSchema, site([device, { ...device, slug: "board-2" }]))).toEqual([]);
  });
});

describe("the client", () => {
  let server: Server | undefined;
  afterEach(() => server?.close());

  async function against(listener: RequestListener) {
    server = createServer(listener).listen(0, "127.0.0.1");
    await new Promise((resolve) => server?.once("listening", resolve));
    return createClient({ baseUrl: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, key: "k" });
  }

  it("sends its key, the wait and the repeat key", async () => {
    let seen: Record<string, unknown> = {};
    const client = await against((req, res) => {
      seen = { ...req.headers, url: req.url };
      res.end("{}");
    });
    await client.ask({ target: "x", action: "on" }, { waitS: 5, repeatKey: "abc", inlet: "a b" });
    expect(seen).toMatchObject({
      authorization: "Bearer k",
      prefer: "wait=5",
      "idempotency-key": "abc",
      url: "/in/a%20b",
    });
  });

  it("turns problem details into an error with the code and the time to wait", async () => {
    const problem = {
      type: "/errors#service-busy",
      title: "Busy",
      status: 503,
      detail: "Later.",
      code: "service-busy",
      retryable: true,
    };
    const client = await against((_req, res) => {
      res
        .writeHead(503, { "content-type": "application/problem+json", "retry-after": "2" })
        .end(JSON.stringify(problem));
    });
    const error = await client.board().catch((caught) => caught);
    expect(error).toBeInstanceOf(ProblemError);
    expect([error.problem, error.retryAfterS, error.message]).toEqual([problem, 2, "Later."]);
  });

  it("calls unreachable what does not answer as the service does", async () => {
    const client = await against((_req, res) => void res.writeHead(502).end("<h1>Bad gateway</h1>"));
    await expect(client.status()).rejects.toBeInstanceOf(UnreachableError);
    await expect(createClient({ baseUrl: "http://127.0.0.1:1" }).status()).rejects.toBeInstanceOf(UnreachableError);
  });

  it("reads live events in whatever pieces they come", async () => {
    const text =
      'event: hello\ndata: {"at":"x"}\n\n: still here\n\nevent: request\ndata: {"id":"7",\ndata: "outcome":"delivered"}\n\n';
    const client = await against((_req, res) => {
      res.writeHead(200, { "content-type": "text/event-stream" });
      for (const piece of text.match(/[\s\S]{1,7}/g) ?? []) res.write(piece);
      res.end();
    });
    const events: unknown[] = [];
    await client.live((event) => events.push(event), new AbortController().signal);
    expect(events).toEqual([
      { name: "hello", data: { at: "x" } },
      { name: "request", data: { id: "7", outcome: "delivered" } },
    ]);
  });
});
