/** Waiting until everything that was asked for has ended. */
import { setTimeout as pause } from "node:timers/promises";
import { eventually } from "@bold-relay/rig";
import pg from "pg";
import { AUTO_OFF_MS, autoOff } from "./soak-site.ts";

/**
 * Until nothing is open and no deadline stands; what is still there after a minute is judged as it is.
 *
 * @param boardStates what each channel is, by the boards themselves
 */
export async function untilSettled(
  databaseUrl: string,
  boardStates: () => ReadonlyMap<string, unknown>,
): Promise<void> {
  const pool = new pg.Pool({ connectionString: databaseUrl, max: 1 });
  pool.on("error", () => {
    // Whatever is broken just now is asked again.
  });
  const left = async () => {
    const { rows } = await pool
      .query("select (select count(*) from open_command) + (select count(*) from deadline) as n")
      .catch(() => ({ rows: [] }));
    return Number(rows[0]?.n ?? Number.NaN) === 0;
  };
  await eventually(left, 60_000);
  await pool.end();
  // A deadline whose row was lost stands nowhere: the boards themselves tell, once every one of them must be over.
  const isOff = () => [...boardStates()].every(([channel, is]) => !autoOff.has(channel) || is !== "on");
  await eventually(async () => isOff(), AUTO_OFF_MS + 5_000);
  // The last reports are on their way.
  await pause(1_500);
}
