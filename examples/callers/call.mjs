#!/usr/bin/env node
/**
 * Calls one channel by its address through a call inlet, with one argument.
 *
 * Settings: URL, the inlet's address; KEY; TARGET, like fennel-hall/stage-bar/left; ARGUMENT, like on or amber.
 */
const { URL: address = "", KEY, TARGET = "", ARGUMENT } = process.env;

const response = await fetch(`${address}/${TARGET.split("/").map(encodeURIComponent).join("/")}`, {
  method: "POST",
  headers: { authorization: `Bearer ${KEY}`, "content-type": "text/plain" },
  body: ARGUMENT,
  signal: AbortSignal.timeout(15_000),
});
const answer = await response.text();
if (!response.ok) throw new Error(answer);
const { outcome, words } = JSON.parse(answer); // and code, the device's own
console.log(outcome, words);
