/** An event may overtake the answer that it makes old: the newer one is shown in the end. */
import { QueryClient, QueryObserver } from "@tanstack/react-query";
import { expect, it } from "vitest";
import { renew } from "../../src/live/renew.ts";

const KEY = ["alerts"];

it.each([
  ["for the first time", {}],
  ["again", { initialData: 0 }],
])("reads once more what is being read %s", async (_which, known) => {
  const answers: ((count: number) => void)[] = [];
  const queries = new QueryClient();
  const queryFn = () => new Promise<number>((resolve) => answers.push(resolve));
  const observer = new QueryObserver<number>(queries, { queryKey: KEY, queryFn, ...known });
  const stop = observer.subscribe(() => {});
  expect(answers).toHaveLength(1);
  // The service answers, then an alert arises and is told; the answer arrives last.
  const renewed = renew(queries, KEY);
  answers[0]?.(0);
  await expect.poll(() => answers.length).toBe(2);
  answers[1]?.(1);
  await renewed;
  expect(observer.getCurrentResult().data).toBe(1);
  stop();
});

it("leaves alone what is not shown", async () => {
  const queries = new QueryClient();
  queries.setQueryData(KEY, 1);
  await renew(queries, KEY);
  expect(queries.getQueryState(KEY)?.isInvalidated).toBe(true);
});
