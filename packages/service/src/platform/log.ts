/** Structured logs on standard output, one JSON object a line. Secrets never reach them. */
import pino, { type Logger } from "pino";

export type Log = Logger;

/** JSON lines on standard output. @param level trace, debug, info, warn, error, fatal or silent */
export function createLog(level: string): Log {
  return pino({
    level,
    base: { service: "bold-relay" },
    timestamp: pino.stdTimeFunctions.isoTime,
    redact: ["password", "key", "token", "req.headers.authorization", "req.headers.cookie"],
  });
}
