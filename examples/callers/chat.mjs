#!/usr/bin/env node
/**
 * Posts a chat message to a chat inlet, and prints what is answered.
 *
 * Settings: URL, the inlet's address; KEY; ROOM; SENDER; TEXT.
 */
const { URL: address = "", KEY, ROOM, SENDER, TEXT } = process.env;

const response = await fetch(address, {
  method: "POST",
  headers: { authorization: `Bearer ${KEY}`, "content-type": "application/json", prefer: "wait=10" },
  body: JSON.stringify({ room: ROOM, sender: SENDER, text: TEXT }),
  signal: AbortSignal.timeout(15_000),
});
const answer = await response.text();
if (!response.ok) throw new Error(answer);
console.log(JSON.parse(answer).reply);
