/** What takes too long is answered otherwise; the work itself goes on. */
export function withTime<Result>(work: Promise<Result>, ms: number, late: () => Error): Promise<Result> {
  return new Promise((resolve, reject) => {
    const timer = setTimeout(() => reject(late()), ms);
    work.then(
      (result) => {
        clearTimeout(timer);
        resolve(result);
      },
      (error: unknown) => {
        clearTimeout(timer);
        reject(error);
      },
    );
  });
}
