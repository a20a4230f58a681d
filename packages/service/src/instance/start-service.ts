/** Starts one instance of the service: by main.ts, and by tests in their own process. */
import { newSetupLink } from "../auth/setup-link.ts";
import { openHttpServer } from "../http-exchange/http-server.ts";
import { findPeerProof } from "../peers/peer-proof.ts";
import { type Clock, steadyClock } from "../platform/clock.ts";
import type { Config } from "../platform/config/config.ts";
import type { Log } from "../platform/log.ts";
import { preparePartitions } from "../store/partitions.ts";
import { createPool, createWriterPool, type Pool } from "../store/pool.ts";
import { prepareJournal } from "../store/prepare.ts";
import { spreadRestored } from "../store/restored.ts";
import { databaseBackend, type JournalBackend, WRITERS } from "../store/writers.ts";
import { Instance, type RunningService } from "./instance.ts";

/**
 * Opens the door at once, waits for the database, then takes up the lanes, or stands by while another instance has them.
 *
 * @param backendFor where requests and commands are kept; only a benchmark of everything else keeps them elsewhere
 * @param onStarted told of each part once it has started; what it throws fails the start there
 * @throws what waiting cannot cure, after closing what was opened
 */
export async function startService(
  config: Config,
  log: Log,
  clock: Clock = steadyClock,
  backendFor: (pool: Pool) => JournalBackend = databaseBackend,
  onStarted: (part: string) => void = () => {},
): Promise<RunningService> {
  const server = await openHttpServer(config);
  const onIdleError = (error: Error) => log.warn({ err: error }, "an idle database connection broke");
  const pool = createPool(config.databaseUrl, onIdleError);
  const writerPool = createWriterPool(config.databaseUrl, WRITERS, onIdleError);
  try {
    await prepareJournal(pool, log);
    await preparePartitions(pool, clock.now());
    await spreadRestored(pool, config.restored);
    await tellOfSetup(pool, server.url, log);
    const proof = await findPeerProof(pool);
    const backend = backendFor(writerPool);
    const instance = new Instance({ config, log, clock, server, pool, writerPool, backend, proof, onStarted });
    await instance.start();
    return instance;
  } catch (error) {
    await Promise.all([server.close(), pool.end(), writerPool.end()]);
    throw error;
  }
}

/** Nobody can sign in: whoever started the service can read here how to begin. */
async function tellOfSetup(pool: Pool, url: string, log: Log): Promise<void> {
  const link = await newSetupLink(pool, url);
  if (link !== null) log.warn(`There is no owner. Open this link to set up the installation: ${link}`);
}
