#!/usr/bin/env node
/**
 * Sends an event to a hook inlet, signed by Standard Webhooks: HMAC-SHA256 over "id.timestamp.body".
 *
 * Settings: URL, the inlet's address; SECRET, whsec_…, from `bold-relay inlet secret NAME`; EVENT, a JSON object.
 */
import { createHmac, randomUUID } from "node:crypto";

const { URL: address = "", SECRET = "", EVENT = "{}" } = process.env;

const id = `msg_${randomUUID()}`; // the same id with a second try: nothing happens twice
const now = Math.floor(Date.now() / 1000);
const key = Buffer.from(SECRET.replace("whsec_", ""), "base64");
const signature = createHmac("sha256", key).update(`${id}.${now}.${EVENT}`).digest("base64");

const response = await fetch(address, {
  method: "POST",
  headers: {
    "content-type": "application/json",
    prefer: "wait=10",
    "webhook-id": id,
    "webhook-timestamp": String(now),
    "webhook-signature": `v1,${signature}`,
  },
  body: EVENT,
  signal: AbortSignal.timeout(15_000),
});
const answer = await response.text();
if (!response.ok) throw new Error(answer);
console.log(answer);
