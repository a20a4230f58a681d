/** New UUIDv7 ids (RFC 9562); their time never runs backwards within this process. */
import { randomFillSync } from "node:crypto";
import { uuidV7 } from "@bold-relay/core";

const POOL = 1024;
const random = new Uint8Array(POOL * 10);
let used = POOL;
let lastMs = 0;

/** Random bytes are drawn for a thousand ids at once: one system call an id would be felt under load. */
export function newId(): string {
  if (used === POOL) {
    randomFillSync(random);
    used = 0;
  }
  const from = used * 10;
  used += 1;
  lastMs = Math.max(lastMs, Date.now());
  return uuidV7(lastMs, random.subarray(from, from + 10));
}
