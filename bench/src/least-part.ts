/**
 * One part of what a request needs, alone in a process, for `least.ts`: an HTTP server that reads and answers JSON; the two messages to and
 * from a device; the rows, written in groups by two statements.
 */
import { randomUUID } from "node:crypto";
import { createServer } from "node:http";
import type { AddressInfo } from "node:net";
import { connectAsync } from "mqtt";
import pg from "pg";
import { withoutDelay } from "./connection.ts";
import { earlyId } from "./early-id.ts";

const GROUP = 64;
const AT_ONCE = 256;
const HOPS = ["accepted", "sent", "published", "acknowledged", "ended"].map((kind, place) => ({
  at: 1_800_000_000_000 + place,
  kind,
}));

const FROM = "json_to_recordset($1) as r (id uuid, command uuid, channel int, hops jsonb, asked_ms float8)";
const ACCEPT = `
with kept as (
  insert into request (id, asked_at, inlet, asker, target, action)
  select id, to_timestamp(asked_ms / 1000), 'bench', 'Bench', 'bench/taker-0/relay-0', 'on' from ${FROM}
)
insert into open_command (id, request_id, channel_id, to_value, asked_at, urgent)
select command, id, channel, 'on', to_timestamp(asked_ms / 1000), false from ${FROM} returning seq`;
const SETTLE = `
with gone as (delete from open_command where id in (select command from ${FROM}))
insert into command (id, request_id, channel_id, seq, to_value, target_stage, stage, ended, attempts, asked_at, hops)
select command, id, channel, 1, 'on', 'acknowledged', 'acknowledged', 'delivered', 1, to_timestamp(asked_ms / 1000), hops from ${FROM}`;

const [part = "", where = "", password = ""] = process.argv.slice(2);
/** So many were done. */
let done = 0;
process.on("message", () => process.send?.({ done }));

if (part === "http") serveJson();
else if (part === "messages") await sendMessages(where);
else await writeRows(where);

function serveJson(): void {
  const server = createServer((req, res) => {
    const pieces: Buffer[] = [];
    req.on("data", (piece: Buffer) => pieces.push(piece));
    req.on("end", () => {
      const asked = JSON.parse(Buffer.concat(pieces).toString("utf8")) as { target: string };
      const said = JSON.stringify({ id: randomUUID(), outcome: "delivered", target: asked.target });
      done += 1;
      setImmediate(() => {
        res.writeHead(200, { "content-type": "application/json", "content-length": Buffer.byteLength(said) });
        res.end(said);
      });
    });
  });
  server.listen(0, "127.0.0.1", () => process.send?.({ port: (server.address() as AddressInfo).port }));
}

async function sendMessages(url: string): Promise<void> {
  const access = { username: "bench", password, protocolVersion: 5, clientId: "least" } as const;
  const client = withoutDelay(await connectAsync(url, access));
  const send = (turn: number) =>
    client.publish(`raw/least-${turn}/do`, `{"id":"${randomUUID()}","to":"on"}`, { qos: 1 });
  client.on("message", (topic, payload) => {
    JSON.parse(payload.toString());
    done += 1;
    send(Number(topic.slice("raw/least-".length, -"/done".length)));
  });
  await client.subscribeAsync("raw/+/done", { qos: 1 });
  for (let turn = 0; turn < AT_ONCE; turn += 1) send(turn);
  process.send?.({ port: 0 });
}

async function writeRows(url: string): Promise<void> {
  const [accepts, settles] = [new pg.Client(url), new pg.Client(url)];
  await Promise.all([accepts.connect(), settles.connect()]);
  const { rows } = await accepts.query<{ id: number }>("select min(id) as id from channel");
  const channel = rows[0]?.id;
  process.send?.({ port: 0 });
  for (;;) {
    const group = Array.from({ length: GROUP }, () => ({
      id: earlyId(),
      command: earlyId(),
      channel,
      hops: HOPS,
      asked_ms: Date.now(),
    }));
    const values = [JSON.stringify(group)];
    await accepts.query({ name: "accept", text: ACCEPT, values });
    await settles.query({ name: "settle", text: SETTLE, values });
    done += GROUP;
  }
}
