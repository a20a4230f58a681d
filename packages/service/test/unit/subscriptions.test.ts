/** What a link is subscribed to, while what is listened to changes at any moment. */
import fc from "fast-check";
import { expect, it } from "vitest";
import type { BrokerConnection } from "../../src/broker/broker-connection.ts";
import { Subscriptions } from "../../src/broker/subscriptions.ts";

/** A broker whose session outlives connections. Each answer waits until it is let through. */
function broker() {
  const session = new Set<string>();
  const waiting: (() => void)[] = [];
  const answered = <Answer>(answer: Answer) =>
    new Promise<Answer>((resolve) => {
      waiting.push(() => resolve(answer));
    });
  const connect = () => {
    const connection = {
      isOpen: true,
      subscribe(filters: readonly string[]) {
        if (!connection.isOpen) return Promise.reject(new Error("it has ended"));
        for (const filter of filters) session.add(filter);
        return answered(filters.map(() => 1));
      },
      unsubscribe(filters: readonly string[]) {
        if (!connection.isOpen) return Promise.reject(new Error("it has ended"));
        for (const filter of filters) session.delete(filter);
        return answered(undefined);
      },
    };
    return connection;
  };
  return {
    session,
    connect,
    /** Lets the oldest answer through. */
    async answer() {
      waiting.shift()?.();
      for (let turn = 0; turn < 5; turn += 1) await Promise.resolve();
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
      const { session, connect, answer } = broker();
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
          connection = connect();
          void take();
        }
      }
      for (let turn = 0; turn < 60; turn += 1) await answer();
      expect([...session].sort()).toEqual([...wanted].sort());
    }),
    { numRuns: 1_000 },
  );
});
