/** The verb *settle* for one command that has ended, and nothing beside it: one call, as in accept-one.ts. */
import { type Command, valueText } from "@bold-relay/core";
import type { Pool } from "./pool.ts";
import { storableJson } from "./storable.ts";

const TEXT = `select settle_one(${Array.from({ length: 15 }, (_, index) => `$${index + 1}`).join(", ")})`;

/** @param epoch proves that this instance holds the lanes; without it nothing is kept, see `isLeaseLost` */
export async function settleOne(pool: Pool, command: Command, epoch: number): Promise<void> {
  await pool.query({
    name: "settle one",
    text: TEXT,
    values: [
      epoch,
      command.id,
      command.requestId,
      command.channel,
      command.seq,
      valueText(command.to),
      command.policy.targetStage,
      command.stage,
      command.end,
      command.reason,
      command.attempts,
      command.askedAt,
      storableJson(command.hops),
      command.urgent,
      command.forMs,
    ],
  });
}
