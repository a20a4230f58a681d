/** Order among requests for one channel while they are on their way to the journal: any interleaving keeps it. */
import type { ChannelId } from "@bold-relay/core";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { ChannelLock } from "../../src/requests/channel-lock.ts";

const id = (channel: number) => channel as ChannelId;
const settle = () => new Promise<void>((resolve) => setImmediate(resolve));

describe("the lock of a channel", () => {
  it("lets absolute requests pass side by side", () => {
    const lock = new ChannelLock();
    lock.enter([id(1), id(2)]);
    lock.enter([id(1)]);
    expect(lock.isOpen([id(1), id(2)])).toBe(true);
  });

  it("makes one that depends on what is before it wait until all of that has reached its lane", async () => {
    const lock = new ChannelLock();
    lock.enter([id(1)]);
    lock.enter([id(1)]);
    let isAlone = false;
    const alone = lock.alone([id(1)]).then((open) => {
      isAlone = true;
      return open;
    });
    lock.leave([id(1)]);
    await settle();
    expect([isAlone, lock.isOpen([id(1)]), lock.isOpen([id(2)])]).toEqual([false, false, true]);
    lock.leave([id(1)]);
    (await alone)();
    expect([isAlone, lock.isOpen([id(1)])]).toEqual([true, true]);
  });

  it("lets those pass who waited, once it is open again", async () => {
    const lock = new ChannelLock();
    const open = await lock.alone([id(1)]);
    let passed = false;
    const passing = lock.pass([id(1)]).then(() => {
      passed = true;
    });
    await settle();
    expect(passed).toBe(false);
    open();
    await passing;
    expect(lock.isOpen([id(1)])).toBe(true);
  });

  it("never holds two for one channel, and never for good, however channels overlap", async () => {
    const channels = fc.uniqueArray(fc.integer({ min: 1, max: 5 }), { minLength: 1, maxLength: 4 });
    await fc.assert(
      fc.asyncProperty(fc.array(fc.record({ channels, pauses: fc.nat(3) }), { maxLength: 12 }), async (wishes) => {
        const lock = new ChannelLock();
        const holders = new Set<number>();
        const hold = async (wanted: readonly number[], pauses: number) => {
          const open = await lock.alone(wanted.map(id));
          for (const channel of wanted) {
            expect(holders.has(channel)).toBe(false);
            holders.add(channel);
          }
          for (let pause = 0; pause < pauses; pause += 1) await settle();
          for (const channel of wanted) holders.delete(channel);
          open();
        };
        await Promise.all(wishes.map((wish) => hold(wish.channels, wish.pauses)));
        expect(lock.isOpen([1, 2, 3, 4, 5].map(id))).toBe(true);
      }),
    );
  });
});
