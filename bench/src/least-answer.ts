/**
 * The least that an answer can take, for `least.ts`: a bare HTTP server that answers 202 when the two rows of a request are durable, or 200
 * when a device has acknowledged and that is durable too. One connection to the database for each step, plain prepared statements.
 */

import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { connectAsync } from "mqtt";
import pg from "pg";
import { withoutDelay } from "./connection.ts";
import { earlyId } from "./early-id.ts";

const ACCEPT = `
with kept as (
  insert into request (id, asked_at, inlet, asker, target, action) values ($1, now(), 'bench', 'Bench', 'bench/taker-0/relay-0', 'on')
)
insert into open_command (id, request_id, channel_id, to_value, asked_at, urgent) values ($2, $1, $3, 'on', now(), false)`;
const SETTLE = `
with gone as (delete from open_command where id = $2)
insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
values ($2, $1, $3, 1, 'on', 'acknowledged', 'acknowledged', 'delivered', 1, now(), '[]')`;

const [databaseUrl = "", brokerUrl = "", password = ""] = process.argv.slice(2);
const [accepts, settles] = [new pg.Client(databaseUrl), new pg.Client(databaseUrl)];
await Promise.all([accepts.connect(), settles.connect()]);
const { rows } = await accepts.query<{ id: number }>("select min(id) as id from channel");
const channel = rows[0]?.id;

const access = { username: "bench", password, protocolVersion: 5, clientId: "least-answer" } as const;
const broker = withoutDelay(await connectAsync(brokerUrl, access));
const waiting = new Map<string, () => void>();
broker.on("message", (_topic, payload) => waiting.get(payload.toString())?.());
await broker.subscribeAsync("raw/+/done", { qos: 1 });

function acknowledged(id: string): Promise<void> {
  return new Promise((resolve) => {
    waiting.set(id, () => {
      waiting.delete(id);
      resolve();
    });
    broker.publish("raw/0/do", id, { qos: 1 });
  });
}

async function outcomeOf(waits: boolean): Promise<{ id: string; outcome: string }> {
  const [id, command] = [earlyId(), earlyId()];
  await accepts.query({ name: "accept", text: ACCEPT, values: [id, command, channel] });
  if (!waits) return { id, outcome: "open" };
  await acknowledged(command);
  await settles.query({ name: "settle", text: SETTLE, values: [id, command, channel] });
  return { id, outcome: "delivered" };
}

const server = createServer((req, res) => {
  req.resume();
  req.on("end", () => {
    const waits = String(req.headers.prefer).includes("wait");
    void outcomeOf(waits).then((outcome) => {
      const said = JSON.stringify(outcome);
      res.writeHead(waits ? 200 : 202, {
        "content-type": "application/json",
        "content-length": Buffer.byteLength(said),
      });
      res.end(said);
    });
  });
});
// Longer than the others' turns take.
server.keepAliveTimeout = 120_000;
server.listen(0, "127.0.0.1", () => process.send?.({ port: (server.address() as AddressInfo).port }));
