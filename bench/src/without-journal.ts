/** The service as it is, but for its journal: requests and commands are kept nowhere. For what the journal costs, and nothing else. */
import { createLog, type JournalBackend, readConfig, startService, steadyClock } from "@bold-relay/service";

let seq = Date.now();

const nowhere: JournalBackend = {
  accept: async (rows) => rows.map(({ commands }) => ({ kept: true, seqs: commands.map(() => (seq += 1)) })),
  settle: async () => {},
  reply: async () => {},
};

const config = readConfig(process.env);
const service = await startService(config, createLog(config.logLevel), steadyClock, () => nowhere);
process.on("SIGTERM", () => void service.stop().then(() => process.exit(0)));
