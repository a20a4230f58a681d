/** The demo's past: a fortnight of made-up requests, so that log, statistics, inlets and map have something to tell. */
import { readFileSync } from "node:fs";
import { inletWay, memberWay } from "@bold-relay/core";
import pg from "pg";
import { demoInlets } from "./inlets.ts";
import { PAST_FILE } from "./world.ts";

/** Once, on a database that is empty, before the service starts. */
export async function addPast(databaseUrl: string): Promise<void> {
  const db = new pg.Client(databaseUrl);
  await db.connect();
  try {
    await db.query(`begin; ${readFileSync(PAST_FILE, "utf8")}`);
    await countUses(db);
    await db.query("commit");
  } finally {
    await db.end();
  }
}

/** By which route of its inlet a request came: by its place; an inlet that is not here needs no route. */
const ROUTES: Readonly<Record<string, (action: string) => number>> = {
  buttons: () => 0,
  booking: (action) => (action === "off" ? 1 : 0),
  "cottage-chat": () => 1,
  "service-desk": () => 2,
};

/** As the service counts each request and each command as it comes (`WayCounter`): by way, channel and day. */
async function countUses(db: pg.Client): Promise<void> {
  const { rows } = await db.query<{ inlet: string; action: string; memberId: number | null }>(
    'select distinct inlet, action, member_id as "memberId" from request',
  );
  const ways = rows.map((row) => ({ ...row, way: wayOf(row) }));
  await db.query(
    `with ways as (select * from json_to_recordset($1) as w(inlet text, action text, "memberId" int, way text)),
       used as (
         select ways.way, r.id, r.asked_at, r.asker from request r
           join ways on ways.inlet = r.inlet and ways.action = r.action and ways."memberId" is not distinct from r.member_id
       ),
       counted as (
         select way, 0 as channel_id, asked_at, asker from used
         union all
         select way, c.channel_id, used.asked_at, asker from used join command c on c.request_id = used.id
       )
     insert into way_use (way, channel_id, day, uses, last_at, last_by)
     select way, channel_id, (asked_at at time zone 'utc')::date, count(*), max(asked_at),
       (array_agg(asker order by asked_at desc))[1]
     from counted group by 1, 2, 3`,
    [JSON.stringify(ways)],
  );
}

function wayOf({ inlet, action, memberId }: { inlet: string; action: string; memberId: number | null }): string {
  if (memberId !== null) return memberWay(memberId);
  const place = ROUTES[inlet]?.(action);
  const route = demoInlets().find(({ slug }) => slug === inlet)?.routes?.[place ?? -1];
  return inletWay(inlet, route ?? null);
}
