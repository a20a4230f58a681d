/** Long work on the event loop, with a turn for everybody else in between. */
import { setImmediate as aside } from "node:timers/promises";

/** Others wait about this long for each of their turns, ms; a request takes five or six. */
const PIECE_MS = 2;

/** Carries steps out to the end. What they look at must not change meanwhile. */
export async function inPieces<Result>(steps: Iterator<void, Result>): Promise<Result> {
  for (;;) {
    const until = performance.now() + PIECE_MS;
    do {
      const { done, value } = steps.next();
      if (done) return value;
    } while (performance.now() < until);
    await aside();
  }
}

/** Does the same with one item after the other. */
export function eachInPieces<Item>(items: Iterable<Item>, work: (item: Item) => void): Promise<void> {
  return inPieces(steps());

  function* steps(): Generator<void, void> {
    for (const item of items) {
      work(item);
      yield;
    }
  }
}
