/**
 * Trying an inlet for real: the service calls its own address as an outside caller would, through the socket, with a key or a
 * signature, and shows word for word what it sent and what it got. What it asks is done.
 */
import { randomUUID } from "node:crypto";
import { type Arrival, inletKinds, RelayError } from "@bold-relay/core";
import { signatureOf } from "../auth/signature.ts";
import type { Exchange, Trial } from "./kind.ts";
import { inletWays } from "./kinds/index.ts";
import type { InletInstance } from "./registry.ts";
import { LONGEST_SHOWN, TRIAL_WITHIN_MS } from "./trial-exchange.ts";

export interface TrialDeps {
  /** Where this instance listens. */
  readonly url: string;
  readonly publish: Trial["publish"];
}

/** @throws RelayError bad-request when the arrival lacks what this kind needs */
export function tryInlet(
  { inlet, own }: InletInstance,
  arrival: Partial<Arrival>,
  key: string | null,
  { url, publish }: TrialDeps,
): Promise<Exchange[]> {
  const post = (path: string, body: unknown) => postTrial({ inlet, key, url }, path, body);
  return inletWays[inlet.description.kind].trial({ inlet, own, arrival, key, post, publish });
}

async function postTrial(
  { inlet, key, url }: Pick<Trial, "inlet" | "key"> & { readonly url: string },
  path: string,
  body: unknown,
): Promise<Exchange> {
  const isText = typeof body === "string";
  const payload = isText ? body : JSON.stringify(body);
  const proof = key === null ? signed(inlet.secret, payload) : { authorization: `Bearer ${key}` };
  if (!proof) {
    const signs = inletKinds[inlet.description.kind].proof === "key or signature" ? ", or a secret to sign with" : "";
    throw new RelayError("bad-request", { why: `To try this for real it takes one of the inlet's keys${signs}` });
  }
  const headers = { "content-type": isText ? "text/plain" : "application/json", prefer: "wait=10", ...proof };
  const controller = new AbortController();
  const timer = setTimeout(() => controller.abort(new Error("it took too long")), TRIAL_WITHIN_MS);
  try {
    const init = { method: "POST", headers, body: payload, redirect: "manual", signal: controller.signal } as const;
    const response = await fetch(`${loopback(url)}/in/${path}`, init);
    const got = `${response.status} ${(await response.text()).slice(0, LONGEST_SHOWN)}`;
    return { sent: `POST /in/${path}  ${payload.slice(0, LONGEST_SHOWN)}`, got };
  } finally {
    clearTimeout(timer);
  }
}

/** Who listens everywhere is called here. */
function loopback(url: string): string {
  return url.replace("//0.0.0.0:", "//127.0.0.1:").replace("//[::]:", "//[::1]:");
}

function signed(secret: string | null, body: string): Record<string, string> | null {
  if (secret === null) return null;
  const [id, timestamp] = [`try-${randomUUID()}`, Math.floor(Date.now() / 1000)];
  const signature = signatureOf(secret, id, timestamp, body);
  return { "webhook-id": id, "webhook-timestamp": String(timestamp), "webhook-signature": signature };
}
