/**
 * The verb *accept* for a request that comes alone, as on a quiet system nearly all do: one call with plain values, whose plans the
 * connection has. The statement for groups takes about half as long again (docs/benchmark.md).
 */
import type { AcceptResult, AcceptRow, CommandRow } from "./accept-rows.ts";
import type { Pool } from "./pool.ts";
import { storableJson } from "./storable.ts";

/** A request with one command, without a key of its caller's own, an end in time, or a deadline that it carries out. */
export function isPlain(row: AcceptRow): boolean {
  const [command] = row.commands;
  return (
    row.commands.length === 1 &&
    command?.deadline === null &&
    row.idempotency === null &&
    row.deadlineOf === null &&
    row.outcome === null &&
    row.refusal === null &&
    row.site === null
  );
}

const TEXT = `select accept_one(${Array.from({ length: 23 }, (_, index) => `$${index + 1}`).join(", ")}) as seq`;

/**
 * @param row for which `isPlain` holds
 * @param epoch proves that this instance holds the lanes; without it nothing is kept, see `isLeaseLost`
 */
export async function acceptOne(pool: Pool, row: AcceptRow, epoch: number): Promise<AcceptResult> {
  const { value } = row;
  const command = row.commands[0] as CommandRow;
  const { rows } = await pool.query<{ seq: number | null }>({
    name: "accept one",
    text: TEXT,
    values: [
      epoch,
      row.id,
      row.askedAt,
      row.requester,
      row.memberId,
      row.inlet,
      row.asker,
      row.keyId,
      row.target,
      row.action,
      typeof value === "number" ? value : null,
      typeof value === "string" ? value : null,
      row.forMs,
      row.said === null ? null : storableJson(row.said),
      row.traceparent,
      command.id,
      command.channelId,
      command.to,
      command.urgent,
      command.forMs,
      command.clearWithinMs,
      command.blocked,
      row.session === null ? null : Buffer.from(row.session, "base64"),
    ],
  });
  const seq = rows[0]?.seq ?? null;
  return seq === null ? { kept: false, original: null } : { kept: true, seqs: [seq] };
}
