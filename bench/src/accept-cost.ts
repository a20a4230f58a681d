/** What making one request durable costs at low load, as a multiple of one bare durable insert on the same connection. */
import { type AcceptRow, acceptRequests, createWriterPool, KnownWords, newId } from "@bold-relay/service";

const ROUNDS = 5;
const ROWS = 400;

/** Medians of neighbouring rounds, ms. The service must not run: this holds the lease. */
export async function acceptCost(databaseUrl: string): Promise<{ bareMs: number; acceptMs: number }> {
  const pool = createWriterPool(databaseUrl, 1, () => {});
  try {
    await pool.query(
      "create table bare (id uuid primary key, at timestamptz, inlet text, asker text, target text, action text)",
    );
    const epoch = (await pool.query<{ epoch: number }>("update lease set epoch = epoch + 1 returning epoch")).rows[0]
      ?.epoch;
    const channel = (await pool.query<{ id: number }>("select id from channel limit 1")).rows[0]?.id;
    if (epoch === undefined || channel === undefined) throw new Error("The site is not set up.");
    const known = new KnownWords();
    const bare = () =>
      pool.query({
        name: "bare",
        text: "insert into bare values ($1, to_timestamp($2::float8 / 1000), $3, $4, $5, $6)",
        values: [newId(), Date.now(), "bench", "Bench", "bench/taker-0/relay-0", "on"],
      });
    const accept = () => acceptRequests(pool, [rowOf(channel)], false, known, [epoch]);
    await medianOf(bare);
    await medianOf(accept);
    const rounds = { bare: [] as number[], accept: [] as number[] };
    for (let round = 0; round < ROUNDS; round += 1) {
      rounds.bare.push(await medianOf(bare));
      rounds.accept.push(await medianOf(accept));
    }
    return { bareMs: middle(rounds.bare), acceptMs: middle(rounds.accept) };
  } finally {
    await pool.end();
  }
}

async function medianOf(write: () => Promise<unknown>): Promise<number> {
  const times: number[] = [];
  for (let turn = 0; turn < ROWS; turn += 1) {
    const startedAt = performance.now();
    await write();
    times.push(performance.now() - startedAt);
  }
  return middle(times);
}

function middle(figures: readonly number[]): number {
  return [...figures].sort((one, other) => one - other)[Math.floor(figures.length / 2)] ?? Number.NaN;
}

function rowOf(channelId: number): AcceptRow {
  const command = { id: newId(), channelId, to: "on", urgent: false, forMs: null, clearWithinMs: null };
  return {
    id: newId(),
    askedAt: Date.now(),
    requester: "inlet",
    memberId: null,
    inlet: "bench",
    asker: "Bench",
    keyId: null,
    session: null,
    target: "bench/taker-0/relay-0",
    action: "on",
    value: null,
    forMs: null,
    said: null,
    traceparent: null,
    outcome: null,
    refusal: null,
    site: null,
    idempotency: null,
    commands: [{ ...command, blocked: null, deadline: null }],
    deadlineOf: null,
  };
}
