/** What a link is subscribed to, while what is listened to changes at any moment. */
import fc from "fast-check";
import { expect, it } from "vitest";
import type { BrokerConnection } from "../../src/broker/broker-connection.ts";
import { Subscriptions } from "../../src/broker/subscriptions.ts";

/** A broker whose session outlives connections. It takes one request after the other when told to; those of an ended connection are lost. */
function broker() {
  const session = new Set<string>();
  let waiting: { readonly take: () => void; readonly lose: () => void }[] = [];
  const connect = () => {
    const request = <Answer>(take: () => Answer) =>
      new Promise<Answer>((resolve, reject) => {
        const lose = () => reject(new Error("it has ended"));
        if (connection.isOpen) waiting.push({ take: () => resolve(take()), lose });
        else lose();
      });
    const connection = {
      isOpen: true,
      subscribe: (filters: readonly string[]) =>
        request(() => {
          for (const filter of filters) session.add(filter);
          return filters.map(() => 1);
        }),
      unsubscribe: (filters: readonly string[]) =>
        request(() => {
          for (const filter of filters) session.delete(filter);
        }),
    };
    return connection;
  };
  return {
    session,
    connect,
    async answer() {
      waiting.shift()?.take();
      await new Promise(setImmediate);
    },
    async lose() {
      for (const one of waiting) one.lose();
      waiting = [];
      await new Promise(setImmediate);
    },
  };
}

const topics = (filters: readonly string[]) => ({ filters, retainedProbe: [] });
const NO_TROUBLE = (error: Error) => {
  throw error;
};

it("what is added while a connection is being made is subscribed to, and what is gone is not", async () => {
  const { session, connect, answer } = broker();
  const subscriptions = new Subscriptions();
  subscriptions.begin(topics(["alder-row/+/is", "fennel-hall/+/is"]));
  const over = subscriptions.takeOn(connect() as unknown as BrokerConnection);
  subscriptions.change(topics(["alder-row/+/is", "glasshouse/+/is"]), () => false, NO_TROUBLE);
  for (let turn = 0; turn < 4; turn += 1) await answer();
  await over;
  expect([...session].sort()).toEqual(["alder-row/+/is", "glasshouse/+/is"]);
});

it("whatever changes, and whenever connections end, the broker has what is wanted once a connection stands", async () => {
  const filters = fc.subarray(["a/is", "b/is", "c/is", "d/is"]);
  const step = fc.oneof(
    fc.record({ kind: fc.constant("change" as const), filters }),
    fc.constant({ kind: "answer" as const }),
    fc.constant({ kind: "lose" as const }),
  );
  await fc.assert(
    fc.asyncProperty(filters, fc.array(step, { maxLength: 25 }), async (first, steps) => {
      const { session, connect, answer, lose } = broker();
      const subscriptions = new Subscriptions();
      let wanted: readonly string[] = first;
      subscriptions.begin(topics(first));
      let connection = connect();
      const take = () => subscriptions.takeOn(connection as unknown as BrokerConnection).catch(() => {});
      void take();
      for (const one of steps) {
        if (one.kind === "answer") await answer();
        else if (one.kind === "change") {
          wanted = one.filters;
          subscriptions.change(
            topics(wanted),
            () => false,
            () => {},
          );
        } else {
          connection.isOpen = false;
          subscriptions.lose();
          await lose();
          connection = connect();
          void take();
        }
      }
      for (let turn = 0; turn < 30; turn += 1) await answer();
      expect([...session].sort()).toEqual([...wanted].sort());
    }),
    { numRuns: 1_000 },
  );
});
