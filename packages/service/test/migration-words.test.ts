/** What was stored under the words of before is found under those of now. */
import { randomUUID } from "node:crypto";
import { readdir, readFile } from "node:fs/promises";
import pg from "pg";
import { afterAll, beforeAll, expect, inject, it } from "vitest";

const FOLDER = new URL("../migrations/", import.meta.url);
const LAST = "0029_words.sql";
const name = `words_${randomUUID().replaceAll("-", "")}`;
const admin = new pg.Client(inject("databaseUrl"));
let db: pg.Client;

const sqlOf = (file: string) => readFile(new URL(file, FOLDER), "utf8");

beforeAll(async () => {
  await admin.connect();
  await admin.query(`create database ${name}`);
  const url = new URL(inject("databaseUrl"));
  url.pathname = `/${name}`;
  db = new pg.Client(url.href);
  await db.connect();
  const before = (await readdir(FOLDER)).filter((file) => file.endsWith(".sql") && file < LAST).sort();
  for (const file of before) await db.query(await sqlOf(file));
  await db.query(`
    insert into site (slug, name) values ('row', 'Row');
    insert into profile (slug, name, body) values ('p', 'P', '{"codec":"json","delivery":{"aim":"confirmed","attempts":3}}');
    insert into notice (slug, body) values
      ('a', '{"slug":"a","on":{"outcomes":["not-at-all","partly","refused","unmatched"],"attention":true},"to":{"topic":"t"}}'),
      ('b', '{"slug":"b","on":{"changes":true},"to":{"topic":"t"}}');
    insert into attention (kind, subject, taken_by) values ('inlet-unmatched', 'chat', 'Ines');
    insert into inlet (slug, name, kind, body) values
      ('chat', 'Chat', 'chat', '{"replies":{"stranger":"No.","help":"?"}}'), ('web', 'Web', 'web', '{}');
    insert into request (id, asked_at, requester, inlet, asker, target, action, outcome) values
      ('0192b3c4-0000-7000-8000-000000000001', now(), 'inlet', 'chat', 'Ana', 'x', 'on', 'unmatched');
    insert into figure (from_at, device_id, site, inlet, what, grade, count) values (now(), 1, 'row', 'chat', 'complete', 3, 7);
  `);
  await db.query(await sqlOf(LAST));
});
afterAll(async () => {
  await db.end();
  await admin.query(`drop database ${name}`);
  await admin.end();
});

const one = async (sql: string) => (await db.query({ text: sql, rowMode: "array" })).rows;

it("notifications tell of the same outcomes and of alerts", async () => {
  expect(await one("select slug, body -> 'on' from notification order by slug")).toEqual([
    ["a", { outcomes: ["not-delivered", "partly-delivered", "refused", "not-understood"], alerts: true }],
    ["b", { changes: true }],
  ]);
});

it("inlets keep their own words for an unknown sender, and alerts whom they are assigned to", async () => {
  expect(await one("select slug, body from inlet order by slug")).toEqual([
    ["chat", { replies: { unknownSender: "No.", help: "?" } }],
    ["web", {}],
  ]);
  expect(await one("select kind, assigned_to from alert_state")).toEqual([["inlet-not-understood", "Ines"]]);
});

it("profiles keep their target stage, requests their outcome, statistics their counts", async () => {
  expect(await one("select body -> 'delivery' from profile")).toEqual([[{ targetStage: "confirmed", attempts: 3 }]]);
  expect(await one("select outcome from request")).toEqual([["not-understood"]]);
  expect(await one("select what, count from statistic")).toEqual([["delivered", 7]]);
});
