/** The service for those who start it in their own process: benchmarks and tests. */

export { hashPassword } from "./auth/password.ts";
export { signatureOf } from "./auth/signature.ts";
export { newKey, sha256 } from "./auth/token.ts";
export type { RunningService } from "./instance/instance.ts";
export { startService } from "./instance/start-service.ts";
export { type Clock, steadyClock } from "./platform/clock.ts";
export { type Config, readConfig } from "./platform/config/config.ts";
export { newId } from "./platform/id.ts";
export { createLog, type Log } from "./platform/log.ts";
export { acceptRequests } from "./store/accept-requests.ts";
export type { AcceptRow } from "./store/accept-rows.ts";
export { KnownWords } from "./store/asked-words.ts";
export { saveInlet, saveMember } from "./store/identities.ts";
export { saveKey } from "./store/keys.ts";
export { migrate } from "./store/migrate.ts";
export { saveProfile, saveSite } from "./store/model.ts";
export { createPool, createWriterPool } from "./store/pool.ts";
export type { JournalBackend } from "./store/writers.ts";
