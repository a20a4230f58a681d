/** Two kinds of load on anything that can be asked once, and what came of it. */

export interface LoadResult {
  readonly count: number;
  readonly seconds: number;
  readonly perSecond: number;
  /** ms */
  readonly p50: number;
  readonly p99: number;
}

/** One request; `worker` is the number of whoever asks, from 0. Rejects when it did not reach its end. */
export type Ask = (worker: number, turn: number) => Promise<void>;

/** As fast as it goes, with this many askers who each wait for their answer. */
export async function closedLoad(ask: Ask, workers: number, seconds: number): Promise<LoadResult> {
  const times: number[] = [];
  const startedAt = performance.now();
  const end = startedAt + seconds * 1000;
  const work = async (worker: number) => {
    for (let turn = 0; performance.now() < end; turn += 1) times.push(await timed(ask, worker, turn));
  };
  await Promise.all(Array.from({ length: workers }, (_, worker) => work(worker)));
  return resultOf(times, performance.now() - startedAt);
}

/** At a steady rate, whatever the answers do. */
export async function openLoad(ask: Ask, perSecond: number, seconds: number, workers: number): Promise<LoadResult> {
  const times: number[] = [];
  const pending: Promise<void>[] = [];
  const startedAt = performance.now();
  const count = Math.round(perSecond * seconds);
  for (let turn = 0; turn < count; turn += 1) {
    const due = startedAt + (turn * 1000) / perSecond;
    await new Promise((resolve) => setTimeout(resolve, Math.max(0, due - performance.now())));
    pending.push(timed(ask, turn % workers, turn).then((ms) => void times.push(ms)));
  }
  await Promise.all(pending);
  return resultOf(times, performance.now() - startedAt);
}

async function timed(ask: Ask, worker: number, turn: number): Promise<number> {
  const startedAt = performance.now();
  await ask(worker, turn);
  return performance.now() - startedAt;
}

function resultOf(times: number[], ms: number): LoadResult {
  const sorted = times.sort((one, other) => one - other);
  const at = (share: number) => sorted[Math.min(sorted.length - 1, Math.floor(sorted.length * share))] ?? Number.NaN;
  return {
    count: sorted.length,
    seconds: ms / 1000,
    perSecond: sorted.length / (ms / 1000),
    p50: at(0.5),
    p99: at(0.99),
  };
}
