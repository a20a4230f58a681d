/**
 * Askers who never give up: each call has its own Idempotency-Key and is repeated until the service has answered it,
 * whatever happens in between. What was answered is what the service has to account for.
 */
import { setTimeout as pause } from "node:timers/promises";
import type { Random } from "./random.ts";
import type { SoakAsk } from "./soak-site.ts";

export interface Answered {
  /** Accepted requests by id, with how many commands each was answered to have. */
  readonly accepted: Map<string, number>;
  /** Those of them that ask for a time only. */
  readonly timed: Set<string>;
  /** Requests that were refused and are in the journal, by id. */
  readonly refused: Map<string, string>;
  /** Calls that had to be made again, by what came of the call before. */
  readonly again: Record<string, number>;
  asked: number;
}

export interface AskerOptions {
  readonly url: string;
  readonly inlet: string;
  readonly key: string;
  readonly random: Random;
  readonly answered: Answered;
  readonly asks: readonly SoakAsk[];
  /** True once no new calls are to be made. */
  readonly isOver: () => boolean;
}

/** Runs until it is over and its last call is answered. */
export async function runAsker(options: AskerOptions): Promise<void> {
  const { random, answered, asks, isOver } = options;
  while (!isOver()) {
    answered.asked += 1;
    const ask = random.pick(asks);
    const waitS = random.next() < 0.3 ? 1 : 0;
    await askUntilAnswered(options, ask, waitS, crypto.randomUUID());
    await pause(random.between(0, 160));
  }
}

async function askUntilAnswered(
  { url, inlet, key, answered, random }: AskerOptions,
  ask: SoakAsk,
  waitS: number,
  repeatKey: string,
): Promise<void> {
  const headers = {
    authorization: `Bearer ${key}`,
    "content-type": "application/json",
    "idempotency-key": repeatKey,
    ...(waitS > 0 ? { prefer: `wait=${waitS}` } : {}),
  };
  for (;;) {
    const why = await fetch(`${url}/in/${inlet}`, {
      method: "POST",
      headers,
      body: JSON.stringify(ask),
      signal: AbortSignal.timeout(15_000),
    }).then(
      (response) => take(response, answered, ask.forMs !== undefined),
      () => "no answer",
    );
    if (why === null) return;
    answered.again[why] = (answered.again[why] ?? 0) + 1;
    await pause(random.between(100, 400));
  }
}

/** null: it is answered; else why it must be asked again. */
async function take(response: Response, answered: Answered, isTimed: boolean): Promise<string | null> {
  const body = (await response.json().catch(() => null)) as {
    id?: string;
    commands?: unknown[];
    code?: string;
    request?: string;
  } | null;
  if (body === null) return "answer cut off";
  if (response.ok && body.id !== undefined) {
    answered.accepted.set(body.id, body.commands?.length ?? 0);
    if (isTimed) answered.timed.add(body.id);
    return null;
  }
  if (response.status >= 500 || response.status === 429) return `${response.status} ${body.code}`;
  if (body.request !== undefined) answered.refused.set(body.request, body.code ?? "");
  return null;
}
