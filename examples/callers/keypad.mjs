#!/usr/bin/env node
/**
 * Plays a telephone call at a keypad inlet: the call begins, then the keys are pressed, and what is read out is printed.
 *
 * Settings: URL, the inlet's address; KEY; KEYS, what is pressed, in order: "2580 1 1".
 */
import { randomUUID } from "node:crypto";

const { URL: address = "", KEY, KEYS = "" } = process.env;
const call = `call-${randomUUID()}`;

for (const digits of [undefined, ...KEYS.split(" ")]) {
  const response = await fetch(address, {
    method: "POST",
    headers: { authorization: `Bearer ${KEY}`, "content-type": "application/json" },
    body: JSON.stringify({ call, digits }),
    signal: AbortSignal.timeout(15_000),
  });
  const answer = await response.json();
  if (!response.ok) throw new Error(answer.detail);
  console.log(answer.say);
  if (answer.end) break;
}
