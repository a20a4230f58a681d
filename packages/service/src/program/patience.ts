/** Tells who waits at a terminal that long work still runs. */

const [PATIENCE_MS, EVERY_MS] = [1_000, 1_000];

/** A line on the error stream after a second, that goes away by itself. @returns what the work returns */
export async function withPatience<Result>(what: string, work: () => Promise<Result>): Promise<Result> {
  if (process.stderr.isTTY !== true) return work();
  const startedAt = performance.now();
  let isShown = false;
  const show = () => {
    process.stderr.write(`\r${what}, ${Math.floor((performance.now() - startedAt) / 1000)} s\u001b[K`);
    isShown = true;
  };
  let timer = setTimeout(function again() {
    show();
    timer = setTimeout(again, EVERY_MS);
  }, PATIENCE_MS);
  try {
    return await work();
  } finally {
    clearTimeout(timer);
    if (isShown) process.stderr.write("\r\u001b[K");
  }
}
