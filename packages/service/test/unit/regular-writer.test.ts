/** Writing what gathers: never two writings at once, and a flush waits for all that has gathered. */
import fc from "fast-check";
import { expect, it } from "vitest";
import { RegularWriter } from "../../src/platform/regular-writer.ts";

it("whoever flushes, and however often, one writing is under way at a time and nothing is left", async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(fc.constantFrom("gather", "flush"), { maxLength: 30 }),
      fc.scheduler(),
      async (steps, s) => {
        let [gathered, written, underWay, most] = [0, 0, 0, 0];
        const writer = new RegularWriter(1_000_000, () => {
          if (gathered === 0) return null;
          const taken = gathered;
          gathered = 0;
          underWay += 1;
          most = Math.max(most, underWay);
          return s.schedule(Promise.resolve()).then(() => {
            written += taken;
            underWay -= 1;
          });
        });
        let added = 0;
        const flushes: Promise<void>[] = [];
        for (const step of steps) {
          if (step === "gather") {
            added += 1;
            gathered += 1;
          } else {
            const due = added;
            flushes.push(writer.flush().then(() => expect(written).toBeGreaterThanOrEqual(due)));
          }
        }
        const last = writer.flush();
        await s.waitFor(Promise.all([...flushes, last]));
        expect([written, gathered]).toEqual([added, 0]);
        expect(most).toBeLessThanOrEqual(1);
      },
    ),
  );
});
