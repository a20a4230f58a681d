/** What the journal claims, against what the witness has seen. Every figure but the last two must be 0. */
import pg from "pg";
import type { Answered } from "./askers.ts";
import type { Witness } from "./witness.ts";

/** How far the witness's clock and the service's may lie apart, with the time that a message takes under load, ms. */
const WITHIN_MS = 3_000;

export interface Judgement {
  /** Answered as accepted, and not in the journal with all of its commands. */
  readonly lost: string[];
  /** Accepted, and without an end. */
  readonly unended: string[];
  /** Promised to go out once, and seen to be written more often; or two commands of one request for one channel. */
  readonly twice: string[];
  /** Claimed what no board has done, or claimed never to have gone out what the witness has seen. */
  readonly wrong: string[];
  /** Refused, and the refusal is not in the journal. */
  readonly unkept: string[];
  /** Channels that should be off since a deadline, and deadlines that were never carried out. */
  readonly overdue: string[];
  readonly ends: Record<string, number>;
  readonly commands: number;
}

interface Row {
  readonly id: string;
  readonly request_id: string;
  readonly channel_id: number;
  readonly kind: string;
  readonly address: string;
  readonly to_value: string;
  /** When it was confirmed, ms since 1970, and by which payload. */
  readonly confirmed_at: number | null;
  readonly proof: string | null;
  readonly stage: string;
  readonly ended: string;
  readonly reason: string | null;
  readonly attempts: number;
}

export async function judge(databaseUrl: string, answered: Answered, witness: Witness): Promise<Judgement> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  try {
    const { rows: commands } = await db.query<Row>(
      `select c.id, c.request_id, c.channel_id, ch.kind, s.slug || '/' || d.slug || '/' || ch.slug as address,
         c.to_value, c.stage, c.ended, c.reason, c.attempts, (hop->>'at')::float8 as confirmed_at,
         hop->'wire'->>'payload' as proof
       from command c join channel ch on ch.id = c.channel_id join device d on d.id = ch.device_id
         join site s on s.id = d.site_id
         left join lateral (select hop from jsonb_array_elements(c.hops) hop where hop->>'kind' = 'confirmed') h on true`,
    );
    const { rows: open } = await db.query<{ id: string }>("select id from open_command");
    const { rows: deadlines } = await db.query<{ id: string }>("select command_id as id from deadline");
    const { rows: requests } = await db.query<{ id: string; outcome: string | null }>(
      "select id, outcome from request",
    );
    return {
      lost: lostOf(answered, commands, open.length),
      unended: open.map((row) => row.id),
      twice: twiceOf(commands, witness),
      wrong: commands.flatMap((command) => wrongClaim(command, witness) ?? []),
      unkept: unkeptOf(answered, requests),
      overdue: deadlines.map((row) => row.id),
      ends: countEnds(commands),
      commands: commands.length,
    };
  } finally {
    await db.end();
  }
}

function lostOf({ accepted }: Answered, commands: readonly Row[], open: number): string[] {
  const found = new Map<string, number>();
  for (const { request_id } of commands) found.set(request_id, (found.get(request_id) ?? 0) + 1);
  const short = [...accepted].filter(([id, count]) => (found.get(id) ?? 0) !== count).map(([id]) => id);
  return open === 0 ? short : [];
}

function twiceOf(commands: readonly Row[], { written }: Witness): string[] {
  const once = commands.filter(
    ({ kind, id, attempts }) => kind === "pulse" && ((written.get(id) ?? 0) > 1 || attempts > 1),
  );
  const seen = new Set<string>();
  const doubled = commands.filter(({ request_id, channel_id }) => {
    const name = `${request_id} ${channel_id}`;
    const known = seen.has(name);
    seen.add(name);
    return known;
  });
  return [...once, ...doubled].map(({ id }) => id);
}

function wrongClaim(command: Row, witness: Witness): string | null {
  const { id, stage, ended, reason } = command;
  const { switched, refused, written, heard } = witness;
  const story = `${id}: ${ended}${reason === null ? "" : `, ${reason}`}, ${stage}`;
  if (stage === "confirmed" && !isProven(command, witness)) return `${story}, and no board has switched for it`;
  if (["superseded", "expired"].includes(ended) && (written.has(id) || heard.has(id)))
    return `${story}, and it was seen on the wire`;
  if (reason === "device-refused" && !refused.has(id)) return `${story}, and no board has refused it`;
  // "Unanswered" claims nothing: an earlier attempt may have been heard before nobody listened any more.
  if (ended === "failed" && reason === "nobody-listens" && switched.has(id))
    return `${story}, and a board has switched for it`;
  return null;
}

/** A report that names no command proves what the channel is, not what made it so: then it must have been so. */
function isProven({ id, proof, address, to_value, confirmed_at }: Row, { switched, reports }: Witness): boolean {
  if (switched.has(id)) return true;
  if (proof === null || proof.includes(id) || confirmed_at === null) return false;
  const near = (reports.get(address) ?? []).filter((one) => Math.abs(one.at - confirmed_at) < WITHIN_MS);
  return near.some((one) => one.to === to_value);
}

function unkeptOf({ refused }: Answered, requests: readonly { id: string; outcome: string | null }[]): string[] {
  const kept = new Set(requests.filter((row) => row.outcome !== null).map((row) => row.id));
  return [...refused.keys()].filter((id) => !kept.has(id));
}

function countEnds(commands: readonly Row[]): Record<string, number> {
  const ends: Record<string, number> = {};
  for (const { ended, reason } of commands) {
    const name = reason === null ? ended : `${ended}: ${reason}`;
    ends[name] = (ends[name] ?? 0) + 1;
  }
  return ends;
}
