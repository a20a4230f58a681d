#!/usr/bin/env node
/**
 * Switches a channel through a web inlet, and waits for the outcome.
 *
 * Settings: URL, the inlet's address, like http://127.0.0.1:4180/in/hall-tablet; KEY; TARGET; ACTION.
 */
import { randomUUID } from "node:crypto";

const { URL: address = "", KEY, TARGET, ACTION } = process.env;

const response = await fetch(address, {
  method: "POST",
  headers: {
    authorization: `Bearer ${KEY}`,
    "content-type": "application/json",
    prefer: "wait=10",
    "idempotency-key": randomUUID(), // the same key with a second try: nothing happens twice
  },
  body: JSON.stringify({ target: TARGET, action: ACTION, sender: "example in JavaScript" }),
  signal: AbortSignal.timeout(15_000),
});
const answer = await response.json();
// A refusal says what happened and what to do.
if (!response.ok) throw new Error(answer.detail);
console.log(answer.outcome);
for (const { verdict } of answer.commands) console.log(verdict.text);
