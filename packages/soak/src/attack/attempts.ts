/**
 * What somebody without a key, and somebody with an owner's key, tries at an installation. Each says what it wants, and is over when that
 * is refused. None of them changes anything where the installation keeps its word. Long because it is one list.
 */
import { type Answered, callRaw, callWithKey, sendRaw, type Target } from "./wire.ts";

export interface Attempt {
  readonly aim: string;
  readonly needsKey?: true;
  /** @returns what came of it that should not; null: it was refused */
  run(target: Target): Promise<string | null>;
}

const JSON_TYPE = "Content-Type: application/json";

/** Every answer is one of these, or there is none. */
function refused({ statuses, text }: Answered, ...allowed: readonly number[]): string | null {
  const wrong = statuses.find((status) => !allowed.includes(status));
  return wrong === undefined ? null : `answered ${wrong}: ${text.split("\r\n\r\n")[1]?.slice(0, 120) ?? ""}`;
}

function without(
  aim: string,
  line: string,
  allowed: readonly number[],
  head: readonly string[] = [],
  body = "",
): Attempt {
  return { aim, run: async (target) => refused(await callRaw(target, line, head, body), ...allowed) };
}

function withKey(aim: string, line: string, allowed: readonly number[], body?: object): Attempt {
  return { aim, needsKey: true, run: async (target) => refused(await callWithKey(target, line, body), ...allowed) };
}

const READ_WITHOUT = [
  "board",
  "requests",
  "requests.csv",
  "members",
  "keys",
  "audit",
  "sites",
  "live",
  "wire",
  "openapi.json",
];

const strangers: readonly Attempt[] = [
  ...READ_WITHOUT.map((path) => without(`read ${path} without a key`, `GET /api/v1/${path}`, [401])),
  without("read the board by another spelling of the address", "GET /API/v1/board", [400, 401, 404]),
  without("read the board by a double slash", "GET //api/v1/board", [400, 401, 404]),
  without("read the board by dots in the path", "GET /assets/../api/v1/board", [400, 401, 404]),
  without("read the board by an encoded path", "GET /%61pi/v1/board", [400, 401, 404]),
  without("read a file of the machine", "GET /assets/..%2f..%2f..%2f..%2fetc%2fpasswd", [400, 404]),
  without(
    "read the board as a local proxy",
    "GET /api/v1/board",
    [401],
    ["X-Forwarded-For: 127.0.0.1", "X-Real-IP: 127.0.0.1"],
  ),
  without(
    "read the board by a method in a header",
    "POST /api/v1/board",
    [401, 403, 404, 405],
    ["X-HTTP-Method-Override: GET", JSON_TYPE],
    "{}",
  ),
  without("use a key that nobody made", "GET /api/v1/board", [401], [`Authorization: Bearer brk_${"x".repeat(43)}`]),
  without("use an empty key", "GET /api/v1/board", [401], ["Authorization: Bearer "]),
  without("use a session that nobody opened", "GET /api/v1/board", [401], [`Cookie: relay_desk=${"x".repeat(43)}`]),
  without("break the query by a cookie", "GET /api/v1/board", [401], ["Cookie: relay_desk=' or '1'='1"]),
  without(
    "switch a lamp without a key",
    "POST /api/v1/requests",
    [401],
    [JSON_TYPE],
    '{"target":"a/b/c","action":"on"}',
  ),
  without(
    "sign in from a page of another site",
    "POST /api/v1/session",
    [403],
    ["Origin: https://elsewhere.example", JSON_TYPE],
    '{"name":"a","password":"b"}',
  ),
  without(
    "sign in without saying from which page",
    "POST /api/v1/session",
    [403],
    [JSON_TYPE],
    '{"name":"a","password":"b"}',
  ),
  without(
    "reset a password with a made-up link",
    "POST /api/v1/session/reset",
    [400, 401, 403, 404, 410, 422],
    [JSON_TYPE],
    `{"token":"${"x".repeat(43)}","password":"nine slow ferries hum"}`,
  ),
  without(
    "become the owner once more",
    "POST /api/v1/setup",
    [400, 401, 403, 404, 409, 410, 422],
    [JSON_TYPE],
    `{"token":"${"x".repeat(43)}","name":"Mole","password":"nine slow ferries hum"}`,
  ),
  without("press a link that nobody made", "POST /in/any/link/abcdefghijklmnopqrstuvwxyz", [401, 404]),
  without("call with two Host headers", "GET /health/live", [400], ["Host: a.example", "Host: b.example"]),
  without(
    "call with two lengths",
    "POST /api/v1/session",
    [400],
    [JSON_TYPE, "Content-Length: 2", "Content-Length: 40"],
  ),
  without(
    "send a compressed body",
    "POST /api/v1/session",
    [400, 403, 415],
    ["Content-Encoding: br", JSON_TYPE],
    "xxxx",
  ),
  without("send a head of 64 kB", "GET /health/live", [400, 431], [`X-Long: ${"x".repeat(65_536)}`]),
  without("send an address of 20 kB", `GET /${"x".repeat(20_000)}`, [400, 404, 414, 431]),
  without(
    "send 2 000 headers",
    "GET /health/live",
    [200, 400, 431],
    Array.from({ length: 2_000 }, (_, n) => `X-${n}: 1`),
  ),
  without("send a line feed in an address", "GET /api/v1/board\nX-Key: 1", [400, 401]),
  {
    aim: "hide a second call behind the body of the first",
    run: async (target) => {
      const { host } = new URL(target.url);
      const hidden = `GET /api/v1/board HTTP/1.1\r\nHost: ${host}\r\n\r\n`;
      const head = `POST /api/v1/session HTTP/1.1\r\nHost: ${host}\r\nContent-Length: ${hidden.length}\r\nTransfer-Encoding: chunked\r\n\r\n`;
      const answer = await sendRaw(target, `${head}0\r\n\r\n${hidden}`);
      return answer.statuses.length > 1 ? `answered ${answer.statuses.length} times` : refused(answer, 400);
    },
  },
  {
    aim: "stay connected by asking for another protocol",
    run: async (target) => {
      const { host } = new URL(target.url);
      const one = `GET /health/live HTTP/1.1\r\nHost: ${host}\r\nConnection: Upgrade, HTTP2-Settings\r\nUpgrade: h2c\r\nHTTP2-Settings: AAMAAABk\r\n\r\n`;
      const answer = await sendRaw(target, one.repeat(50));
      return answer.statuses.length > 1 || answer.statuses.includes(101)
        ? `answered ${answer.statuses.join(" ")}`.slice(0, 60)
        : null;
    },
  },
  {
    aim: "have more than 16 calls served at once on a connection",
    run: async (target) => {
      const { host } = new URL(target.url);
      const answer = await sendRaw(target, `GET /health/live HTTP/1.1\r\nHost: ${host}\r\n\r\n`.repeat(3_000));
      return answer.statuses.length >= 3_000 ? "all 3 000 were served" : null;
    },
  },
  {
    aim: "learn the versions of what it is made of",
    run: async (target) => {
      const { text } = await callRaw(target, "GET /");
      return /^(?:x-powered-by|server):/im.test(text.split("\r\n\r\n")[0] ?? "") ? "a header says it" : null;
    },
  },
  {
    aim: "have its pages shown within another page, or run a script of another site",
    run: async (target) => {
      const head = (await callRaw(target, "GET /")).text.split("\r\n\r\n")[0] ?? "";
      const policy = /^content-security-policy: (.*)$/im.exec(head)?.[1] ?? "";
      if (!/frame-ancestors 'none'/.test(policy)) return "the policy allows frames";
      return /script-src[^;]*'unsafe-inline'/.test(policy) ? "the policy allows inline scripts" : null;
    },
  },
];

const RECENT = [403] as const;

/** With an owner's key, also one of a day: nothing that lasts longer than the key. */
const keyHolders: readonly Attempt[] = [
  withKey("make an owner with a key", "POST /api/v1/members", RECENT, { name: "Mole", role: "owner" }),
  withKey("make a key with a key", "POST /api/v1/keys", RECENT, { name: "mole", expiresInDays: null }),
  withKey("drop the second-factor rule with a key", "PUT /api/v1/team/rules", RECENT, { secondFactorFor: [] }),
  withKey("make a reset link with a key", "POST /api/v1/members/Nobody/reset", RECENT, {}),
  withKey("delete a member with a key", "DELETE /api/v1/members/Nobody", RECENT),
  withKey("remove a second factor with a key", "POST /api/v1/members/Nobody/second-factor/off", RECENT, {
    password: "x",
  }),
  withKey("change the account with a key", "POST /api/v1/session/password", RECENT, {
    password: "x",
    next: "nine slow ferries hum",
  }),
  withKey("add a passkey with a key", "POST /api/v1/account/passkeys/options", RECENT, { password: "x" }),
  withKey(
    "poison an object by its prototype",
    "POST /api/v1/requests/rehearse",
    [400, 422],
    JSON.parse('{"target":"a","action":"on","__proto__":{"x":1}}'),
  ),
  withKey("publish to the broker's own topics", "POST /api/v1/wire", [400, 403, 422], {
    topic: "$CONTROL/dynamic-security/v1",
    payload: "{}",
  }),
  withKey("publish to every topic", "POST /api/v1/wire", [400, 403, 422], { topic: "#", payload: "x" }),
  withKey("ask for a wildcard", "POST /api/v1/requests", [400, 404, 422], { target: "+/+/+", action: "on" }),
  {
    aim: "nest a body 5 000 deep",
    needsKey: true,
    run: async (target) => {
      const head = [`Authorization: Bearer ${target.key}`, JSON_TYPE];
      const body = `{"target":${"[".repeat(5_000)}${"]".repeat(5_000)},"action":"on"}`;
      return refused(await callRaw(target, "POST /api/v1/requests/rehearse", head, body), 400, 413, 422);
    },
  },
  {
    aim: "send a body of 40 MB",
    needsKey: true,
    run: async (target) => {
      const head = [`Authorization: Bearer ${target.key}`, JSON_TYPE];
      return refused(
        await callRaw(target, "POST /api/v1/requests/rehearse", head, `"${"x".repeat(40_000_000)}"`),
        400,
        413,
        422,
      );
    },
  },
];

export const attempts: readonly Attempt[] = [...strangers, ...keyHolders];
