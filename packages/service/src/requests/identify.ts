/** Shows which device is meant: a lamp of it goes the other way and back, twice. Every step is a request like any other. */
import { setTimeout as pause } from "node:timers/promises";
import { type Asker, type ChannelEntry, kindOf, RelayError } from "@bold-relay/core";
import type { Ask } from "../requests/wait.ts";

const BLINKS = 2;
const STEP_MS = 700;
const WAIT_MS = 10_000;

/**
 * @returns the lamp that blinked, and the requests that made it
 * @throws RelayError bad-request when the device has no lamp, or the refusal of the first step
 */
export async function identify(channels: readonly ChannelEntry[], asker: Asker, ask: Ask) {
  const lamp = channels.find(({ kind }) => kindOf(kind).blinks);
  if (!lamp)
    throw new RelayError("bad-request", {
      why: `The ${channels[0]?.device.name ?? "device"} has no lamp, and only a lamp may blink without harm: prove it step by step instead`,
    });
  const requests: string[] = [];
  for (let step = 0; step < 2 * BLINKS; step += 1) {
    const action = step % 2 === 0 ? "toggle" : "back";
    const intent = { target: lamp.address, action, value: null, forMs: null, until: null, repeatKey: null };
    const request = await ask(intent, asker, WAIT_MS);
    requests.push(request.id);
    // What does not get there will not blink; and what somebody else changed meanwhile is theirs.
    if (request.outcome !== "delivered") break;
    await pause(STEP_MS);
  }
  return { channel: lamp.address, name: lamp.name, requests };
}
