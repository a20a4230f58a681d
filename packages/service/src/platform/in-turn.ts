/** Work that is done one after the other, in the order in which it was handed in. */
export type InTurn = <Result>(work: () => Promise<Result>) => Promise<Result>;

export function createTurns(): InTurn {
  let last: Promise<unknown> = Promise.resolve();
  return (work) => {
    const mine = last.then(work);
    last = mine.catch(() => {});
    return mine;
  };
}
