/**
 * What a competent engineer would write instead in an evening: Express, Joi, node-postgres and the MQTT library, one insert a step. It is
 * written as well as such a thing is written: a pool, prepared statements, validated bodies, QoS 1, a time-out. Nothing of ours is in it.
 *
 * It keeps no lanes, no states, no traces, no rights but one key, and it does not take up again after a stop what was open.
 */
import { randomUUID } from "node:crypto";
import express from "express";
import Joi from "joi";
import { connectAsync } from "mqtt";
import pg from "pg";

const { DATABASE_URL, BROKER_URL, BROKER_USER, BROKER_PASSWORD, PORT, KEY } = process.env;
const ANSWER_WITHIN_MS = 10_000;

const pool = new pg.Pool({ connectionString: DATABASE_URL, max: 10 });
await pool.query(`create table if not exists evening_request (
  id uuid primary key, asked_at timestamptz not null default now(), target text not null, action text not null)`);
await pool.query(`create table if not exists evening_step (
  request_id uuid not null, step text not null, at timestamptz not null default now(), primary key (request_id, step))`);
const note = (id: string, step: string) =>
  pool.query({ name: "step", text: "insert into evening_step (request_id, step) values ($1, $2)", values: [id, step] });

const broker = await connectAsync(BROKER_URL ?? "", {
  username: BROKER_USER ?? "",
  password: BROKER_PASSWORD ?? "",
  protocolVersion: 5,
});
const noDelay = () => (broker.stream as { setNoDelay?: (on: boolean) => void }).setNoDelay?.(true);
noDelay();
broker.on("connect", noDelay);
/** By the id of the request. */
const waiting = new Map<string, (ok: boolean) => void>();
broker.on("message", (_topic, payload) => {
  const { id, ok } = JSON.parse(payload.toString()) as { id: string; ok: boolean };
  waiting.get(id)?.(ok);
});
await broker.subscribeAsync("bench/+/+/done", { qos: 1 });

const body = Joi.object({
  target: Joi.string()
    .pattern(/^[a-z0-9-]+(\/[a-z0-9-]+){2}$/)
    .required(),
  action: Joi.string().valid("on", "off").required(),
});

const app = express();
app.use(express.json());
app.post("/switch", async (req, res) => {
  if (req.headers.authorization !== `Bearer ${KEY}`) return void res.status(401).json({ error: "wrong key" });
  const { error, value } = body.validate(req.body);
  if (error) return void res.status(400).json({ error: error.message });
  const { target, action } = value as { target: string; action: string };
  const id = randomUUID();
  await pool.query({
    name: "request",
    text: "insert into evening_request (id, target, action) values ($1, $2, $3)",
    values: [id, target, action],
  });
  if (!/wait/.test(String(req.headers.prefer))) return void res.status(202).json({ id });
  const answered = answerTo(id);
  await broker.publishAsync(`${target}/do`, JSON.stringify({ id, to: action }), { qos: 1 });
  await note(id, "published");
  const ok = await answered;
  await note(id, ok === null ? "unanswered" : ok ? "acknowledged" : "failed");
  res.status(200).json({ id, outcome: ok ? "delivered" : "not delivered" });
});
app.listen(Number(PORT), "127.0.0.1", () => process.send?.("ready"));

/** null: no answer in time. */
function answerTo(id: string): Promise<boolean | null> {
  return new Promise((resolve) => {
    const end = (ok: boolean | null) => {
      clearTimeout(timer);
      waiting.delete(id);
      resolve(ok);
    };
    const timer = setTimeout(() => end(null), ANSWER_WITHIN_MS);
    waiting.set(id, end);
  });
}
