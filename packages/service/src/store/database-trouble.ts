/**
 * What a database error means: whose fault it is, whether to try again, and the words for log, health and alerts. One table of
 * SQLSTATEs (PostgreSQL documentation, appendix A); nothing else in the service reads one, but for the lease's own.
 */
import pg from "pg";

interface Trouble {
  /** A class of two characters, or a whole code of five. The longest that fits counts. */
  readonly sqlState: string;
  /**
   * - row: the row can never be stored; only it is refused
   * - state: the database cannot take it now; whatever row comes next meets the same
   */
  readonly fault: "row" | "state";
  /** What is wrong and what to do, for people; it stands before the database's own words. */
  readonly text: string;
}

/** Every class that is not here is the database's state too: only what a row did itself may refuse it. */
const TROUBLES: readonly Trouble[] = [
  { sqlState: "22", fault: "row", text: "A value does not fit its column." },
  { sqlState: "23", fault: "row", text: "A row breaks a rule of its table." },
  { sqlState: "54", fault: "row", text: "A row is larger than the database can store." },
  { sqlState: "08", fault: "state", text: "The connection to the database broke." },
  { sqlState: "25006", fault: "state", text: "The database is read-only: it is a standby, or it was set so." },
  { sqlState: "28", fault: "state", text: "The database refuses the service's user or password." },
  { sqlState: "3D", fault: "state", text: "The service's database does not exist on this server." },
  { sqlState: "42501", fault: "state", text: "The service's user lacks a right in the database. Grant it again." },
  { sqlState: "42", fault: "state", text: "The database's tables are not those of this version." },
  { sqlState: "40", fault: "state", text: "Another transaction was in the way." },
  { sqlState: "53100", fault: "state", text: "The database's disk is full. Make room." },
  { sqlState: "53300", fault: "state", text: "The database has no free connection slots." },
  { sqlState: "53", fault: "state", text: "The database lacks disk, memory or connection slots." },
  { sqlState: "55000", fault: "state", text: "The database accepts no connections. Allow them again." },
  { sqlState: "55P03", fault: "state", text: "A table of the database is locked." },
  { sqlState: "55", fault: "state", text: "The database is not in a state in which it can take this." },
  { sqlState: "57014", fault: "state", text: "A statement was cancelled, or took too long." },
  { sqlState: "57P", fault: "state", text: "The database is stopping or starting." },
  { sqlState: "58", fault: "state", text: "The database's server has a system error." },
];

/** The row of the table for an error; null: it is not the server's (socket closed, time-out), or of a class that is not listed. */
function troubleOf(error: unknown): Trouble | null {
  const code = error instanceof pg.DatabaseError ? (error.code ?? "") : "";
  const fitting = TROUBLES.filter(({ sqlState }) => code.startsWith(sqlState));
  return fitting.sort((one, other) => other.sqlState.length - one.sqlState.length)[0] ?? null;
}

/** Whether two transactions waited for each other, and this one was undone: it may be done again. */
export function isDeadlock(error: unknown): boolean {
  return error instanceof pg.DatabaseError && error.code === "40P01";
}

/** Whether this row alone is at fault, and would be at any time. Everything else is worth another try. */
export function isRowsFault(error: unknown): boolean {
  return troubleOf(error)?.fault === "row";
}

/**
 * What is wrong with the database, and what to do.
 *
 * @example databaseTrouble(of a standby) // → "The database is read-only: it is a standby, or it was set so. (25006: cannot execute INSERT in a read-only transaction)"
 */
export function databaseTrouble(error: unknown): string {
  const said = error instanceof Error && error.message !== "" ? error.message : String(error);
  const text = troubleOf(error)?.text ?? "The database does not answer.";
  return `${text} (${error instanceof pg.DatabaseError ? `${error.code}: ` : ""}${said})`;
}

/** Whether an error came from the database or on the way to it: from its server, its driver, or the socket. */
export function isDatabaseError(error: unknown): boolean {
  return error instanceof pg.DatabaseError || (error instanceof Error && marked.has(error));
}

/** Kept beside the errors, not in them: pg's and Node.js's own stay as they are. */
const marked = new WeakSet<Error>();

/** A call to the database has ended with this error. */
export function markDatabaseError(error: unknown): void {
  if (error instanceof Error) marked.add(error);
}

/** node-postgres gives no codes to its own errors: a lost connection and a time that ran out are told by their words, here and nowhere else. */
function isOfTheDriver(error: Error): boolean {
  return /connect|timeout|terminated/i.test(error.message);
}

/**
 * Whether waiting cures it while the service starts. A wrong password or a missing database is a mistake in the configuration
 * then: it is told at once.
 */
export function isWorthWaitingFor(error: unknown): boolean {
  const code = error instanceof pg.DatabaseError ? (error.code ?? "") : "";
  const isOurs = error instanceof Error && !("code" in error) && !isOfTheDriver(error);
  return !isOurs && !isRowsFault(error) && !["28", "3D", "42"].some((known) => code.startsWith(known));
}
