/** More is asked than the journal takes: what is too much is told so at once, what was taken is kept, and it recovers. */
import { Agent, request } from "node:http";
import { afterAll, beforeAll, expect, it } from "vitest";
import { limits } from "../src/platform/config/limits.ts";
import { poll } from "./support/until.ts";
import { createWorld, INLET, type World } from "./support/world.ts";

let world: World;

beforeAll(async () => {
  world = await createWorld();
  await world.board("wren");
});
afterAll(() => world.stop());

interface Answer {
  readonly status: number;
  readonly retryAfter: string | undefined;
  readonly id: string | undefined;
}

function ask(agent: Agent, turn: number): Promise<Answer> {
  const body = JSON.stringify({ target: "wren/hall", action: turn % 2 ? "on" : "off" });
  const headers = { authorization: `Bearer ${world.inletKey}`, "content-type": "application/json" };
  return new Promise((resolve, reject) => {
    const call = request(`${world.service.url}/in/${INLET}`, { agent, method: "POST", headers }, (response) => {
      let text = "";
      response.on("data", (chunk) => {
        text += chunk;
      });
      response.on("end", () => {
        const { id } = JSON.parse(text) as { id?: string };
        resolve({ status: response.statusCode ?? 0, retryAfter: response.headers["retry-after"], id });
      });
    });
    call.on("error", reject);
    call.end(body);
  });
}

it("answers 503 with Retry-After to what it cannot take, keeps what it took, and recovers at once", async () => {
  const agent = new Agent({ keepAlive: true, maxSockets: Number.POSITIVE_INFINITY });
  const holder = await world.pool.connect();
  await holder.query("begin");
  await holder.query("lock table open_command in access exclusive mode");
  // One commit group is on its way, one queue is full: what comes on top of both is too much.
  const asked = limits.acceptQueue + limits.batchRows + 400;
  const refused: Answer[] = [];
  let answered = 0;
  const all = Promise.all(
    Array.from({ length: asked }, async (_, turn) => {
      const answer = await ask(agent, turn);
      answered += 1;
      if (answer.status === 503) refused.push(answer);
      return answer;
    }),
  );
  // Those that are too much are answered while the journal still stands still.
  await poll(
    async () => refused.length,
    (count) => count >= 400,
  );
  expect(answered).toBe(refused.length);
  expect(refused.every(({ retryAfter }) => Number(retryAfter) > 0)).toBe(true);
  await holder.query("rollback");
  holder.release();
  const answers = await all;
  const taken = answers.filter(({ status }) => status === 200 || status === 202);
  expect(taken.length + refused.length).toBe(asked);
  expect((await world.ask("wren/hall", "on")).outcome).toBe("delivered");
  const { rows } = await poll(
    () =>
      world.pool.query("select count(*)::int as ends from command where request_id = any($1::uuid[])", [
        taken.map(({ id }) => id),
      ]),
    ({ rows: [row] }) => row.ends === taken.length,
  );
  expect(rows[0].ends).toBe(taken.length);
  agent.destroy();
});
