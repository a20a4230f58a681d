/** What the service says that became of everything, read from its database. The witness knows nothing of this. */
import pg from "pg";

/** A command that has ended, and what is claimed of it. */
export interface CommandClaim {
  readonly id: string;
  readonly request: string;
  /** `<site>/<device>/<channel>` */
  readonly channel: string;
  readonly to: string;
  readonly stage: string;
  readonly ended: string;
  readonly reason: string | null;
  /** When it was confirmed, ms since 1970, and by which payload. */
  readonly confirmedAt: number | null;
  /** When it was written first, ms since 1970. */
  readonly sentAt: number | null;
  readonly proof: string | null;
}

export interface Account {
  readonly commands: readonly CommandClaim[];
  /** Commands without an end, by the request that made them. */
  readonly open: readonly { readonly id: string; readonly request: string }[];
  /** The outcome of each request; null: it has none so far. */
  readonly outcomes: ReadonlyMap<string, string | null>;
}

export async function readAccount(databaseUrl: string): Promise<Account> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  try {
    const { rows: commands } = await db.query<CommandClaim>(
      `select c.id, c.request_id as request, s.slug || '/' || d.slug || '/' || ch.slug as channel,
         c.to_value as to, c.stage, c.ended, c.reason, (hop->>'at')::float8 as "confirmedAt",
         (select (sent->>'at')::float8 from jsonb_array_elements(c.hops) sent where sent->>'kind' = 'sent' limit 1) as "sentAt",
         hop->'wire'->>'payload' as proof
       from command c join channel ch on ch.id = c.channel_id join device d on d.id = ch.device_id
         join site s on s.id = d.site_id
         left join lateral (select hop from jsonb_array_elements(c.hops) hop where hop->>'kind' = 'confirmed') h on true`,
    );
    const { rows: open } = await db.query<{ id: string; request: string }>(
      "select id, request_id as request from open_command",
    );
    const { rows: requests } = await db.query<{ id: string; outcome: string | null }>(
      "select id, outcome from request",
    );
    return { commands, open, outcomes: new Map(requests.map(({ id, outcome }) => [id, outcome])) };
  } finally {
    await db.end();
  }
}
